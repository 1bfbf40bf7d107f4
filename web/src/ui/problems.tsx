// What the server refused, with the place of each problem.
import { ProblemError } from "../api/client";

export function Problems({ error }: { error: Error | null }) {
  if (!error) return null;
  const refused = error instanceof ProblemError;
  return (
    <div role="alert" className="border-fail/50 bg-fail/5 rounded-md border p-3 text-sm">
      <p className="text-fail font-semibold">
        {refused ? error.message : "There is no connection"}. Nothing was saved.
      </p>
      <ul className="mt-1 max-h-40 list-disc space-y-0.5 overflow-y-auto pl-5">
        {(refused ? error.problems : []).map((p) => (
          <li key={p.path + p.message}>
            {p.path && <span className="font-medium">{p.path}: </span>}
            {p.message}
          </li>
        ))}
      </ul>
    </div>
  );
}
