import type { ProblemError, Scenario } from "@/api/client";
import { where } from "./where";

type Props = { problem: ProblemError | undefined; againInS: number | null; scenario: Scenario };

/** What went wrong with a live answer, field by field, and whether it is asked again by itself. */
export function LiveProblem({ problem, againInS, scenario }: Props) {
  if (!problem) return null;
  const { title, detail, errors, status } = problem.problem;
  if (status === 429)
    return (
      <p role="status" className="rounded-lg bg-surface px-4 py-2 text-muted">
        The server is busy with other questions. What you typed is kept, and it is asked again in {againInS ?? 2} s.
      </p>
    );
  return (
    <div role="alert" className="rounded-lg border border-danger/60 bg-surface px-4 py-2">
      <b className="font-medium text-danger">{title}.</b> What you typed is kept; the figures below are the last that
      could be computed.
      {againInS !== null && ` It is asked again in ${againInS} s.`}
      <ul className="mt-0.5">
        {(errors.length ? errors : [{ path: "", message: detail }]).map((e) => (
          <li key={e.path + e.message}>
            {e.path && <b className="font-medium text-amber">{where(e.path, scenario)}:</b>} {e.message}
          </li>
        ))}
      </ul>
    </div>
  );
}
