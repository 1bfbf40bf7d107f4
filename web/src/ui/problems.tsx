// What the server refused, with the place of each problem.
import { ProblemError, wentWrong } from "../api/client";
import { Button } from "./controls";

/** `again` asks anew, where it was a question only and nothing was to be saved. */
export function Problems({ error, again }: { error: Error | null; again?: () => void }) {
  if (!error) return null;
  const refused = error instanceof ProblemError;
  return (
    <div role="alert" className="border-fail/50 bg-fail/5 rounded-md border p-3 text-sm">
      <p className="text-fail font-semibold">{wentWrong(error, again !== undefined)}</p>
      <ul className="mt-1 max-h-40 list-disc space-y-0.5 overflow-y-auto pl-5">
        {(refused ? error.problems : []).map((p) => (
          <li key={p.path + p.message}>
            {p.path && <span className="font-medium">{p.path}: </span>}
            {p.message}
          </li>
        ))}
      </ul>
      {again && (!refused || error.passing) && (
        <Button className="mt-2" onClick={again}>
          Try again
        </Button>
      )}
    </div>
  );
}
