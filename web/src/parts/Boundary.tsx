import { useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { ErrorBoundary } from "react-error-boundary";
import { Button } from "./controls/Button";
import { saveFile } from "./save";
import { draftsHere } from "./savedDraft";

type Props = {
  /** What is shown: "The chart", "This view". */
  what: string;
  children: ReactNode;
  /** Where one of these changes, what failed is tried anew. */
  keys?: unknown[];
  height?: number;
};

/** Keeps a fault where it happened: the rest of the page goes on, and what failed says so and can be tried again. */
export function Boundary({ what, children, keys, height }: Props) {
  const client = useQueryClient();
  return (
    <ErrorBoundary
      resetKeys={keys}
      onReset={() => void client.resetQueries()}
      fallbackRender={({ error, resetErrorBoundary }) => (
        <Fault what={what} error={error} again={resetErrorBoundary} height={height} />
      )}
    >
      {children}
    </ErrorBoundary>
  );
}

/** A view's own boundary: where drafts are kept in this browser, one of them may be the reason. */
export function ViewBoundary({ children, at }: { children: ReactNode; at: string }) {
  const client = useQueryClient();
  return (
    <ErrorBoundary
      resetKeys={[at]}
      onReset={() => void client.resetQueries()}
      fallbackRender={({ error, resetErrorBoundary }) => (
        <div className="mx-auto mt-16 max-w-xl px-5">
          <h1 className="mb-2 text-xl">This view met something that it was not made for.</h1>
          <Fault what="It" error={error} again={resetErrorBoundary} />
          <Drafts again={resetErrorBoundary} />
        </div>
      )}
    >
      {children}
    </ErrorBoundary>
  );
}

function Fault({ what, error, again, height }: { what: string; error: unknown; again: () => void; height?: number }) {
  return (
    <div
      role="alert"
      className="flex flex-col items-start justify-center gap-2 text-[0.93rem]"
      style={{ minHeight: height }}
    >
      <p>
        {what} cannot be shown.{" "}
        <span className="text-muted">({error instanceof Error ? error.message : String(error)})</span>
      </p>
      <Button onClick={again}>Try again</Button>
    </div>
  );
}

function Drafts({ again }: { again: () => void }) {
  const drafts = draftsHere();
  if (drafts.length === 0) return null;
  return (
    <section aria-label="Unsaved work in this browser" className="mt-6">
      <h2 className="text-[1.02rem] font-medium">Unsaved work in this browser</h2>
      <p className="mb-2 text-[0.93rem] text-muted">
        If one of these is the reason, save it as a file, then discard it and try again. What is stored is not touched.
      </p>
      <ul className="flex flex-col gap-1">
        {drafts.map(({ id, text, discard }) => (
          <li key={id} className="flex flex-wrap items-center gap-2">
            <span className="num min-w-0 grow truncate text-[0.9rem]">{id}</span>
            <Button look="quiet" onClick={() => saveFile(`${id}.json`, "application/json", text)}>
              Save as a file
            </Button>
            <Button
              look="danger"
              onClick={() => {
                discard();
                again();
              }}
            >
              Discard
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
