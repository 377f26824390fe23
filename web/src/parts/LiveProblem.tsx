import type { ProblemError } from "@/api/client";

/** What went wrong with a live answer, field by field, and whether it is asked again by itself. */
export function LiveProblem({ problem, againInS }: { problem: ProblemError | undefined; againInS: number | null }) {
  if (!problem) return null;
  const { title, detail, errors } = problem.problem;
  return (
    <div role="alert" className="rounded-lg border border-danger/60 bg-surface px-4 py-2">
      <b className="font-medium text-danger">{title}.</b> What you typed is kept; the figures below are the last that
      could be computed.
      {againInS !== null && ` It is asked again in ${againInS} s.`}
      <ul className="mt-0.5">
        {(errors.length ? errors : [{ path: "", message: detail }]).map((e) => (
          <li key={e.path + e.message}>
            {e.path && <code className="num text-amber">{e.path}</code>} {e.message}
          </li>
        ))}
      </ul>
    </div>
  );
}
