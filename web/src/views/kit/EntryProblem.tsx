import type { ProblemError } from "@/api/client";
import { labelOf } from "./fields";

/** Why an entry was not saved, field by field. */
export function EntryProblem({ problem, kind }: { problem: ProblemError; kind: string }) {
  const { errors } = problem.problem;
  if (errors.length === 0)
    return (
      <p role="alert" className="mb-3 rounded-lg border border-danger/60 px-3 py-2">
        {problem.message}
      </p>
    );
  return (
    <div role="alert" className="mb-3 rounded-lg border border-danger/60 px-3 py-2">
      <ul>
        {errors.map((e) => (
          <li key={e.path}>
            <b className="font-medium text-amber">{labelOf(kind, e.path)}:</b> {e.message}
          </li>
        ))}
      </ul>
    </div>
  );
}
