// What the server refused, with the place of each problem.
import type { ProblemError } from "../api/client";

export function Problems({ error }: { error: ProblemError | null }) {
  if (!error) return null;
  return (
    <div role="alert" className="border-fail/50 bg-fail/5 rounded-md border p-3 text-sm">
      <p className="text-fail font-semibold">{error.message}. Nothing was saved.</p>
      <ul className="mt-1 max-h-40 list-disc space-y-0.5 overflow-y-auto pl-5">
        {error.problems.map((p) => (
          <li key={p.path + p.message}>
            {p.path && <span className="font-medium">{p.path}: </span>}
            {p.message}
          </li>
        ))}
      </ul>
    </div>
  );
}
