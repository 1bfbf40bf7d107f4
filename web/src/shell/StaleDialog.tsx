// A save was refused because the variant was changed elsewhere: both versions, and what to do with them.
import { compare } from "fast-json-patch";
import { actions, useDesign } from "../design/store";
import { Button } from "../ui/controls";
import { Dialog } from "../ui/dialog";

export function StaleDialog() {
  const save = useDesign((s) => s.save);
  const design = useDesign((s) => s.design);
  const { takeTheirs, keepMine } = actions;
  if (save.is !== "stale" || !design) return null;
  const differences = compare(save.theirs, design);
  return (
    <Dialog title="Changed elsewhere in the meantime" open onOpenChange={() => undefined} wide>
      <p>
        This variant was saved from another window or by another person after you opened it. Nothing is lost: choose
        which of the two goes on. The other one stays in Record.
      </p>
      <table className="mt-4 w-full text-sm">
        <thead>
          <tr className="border-line border-b text-left">
            <th className="py-1 pr-2 font-medium">Place</th>
            <th className="py-1 pr-2 font-medium">There</th>
            <th className="py-1 font-medium">Here</th>
          </tr>
        </thead>
        <tbody>
          {differences.slice(0, 12).map((d) => (
            <tr key={d.path} className="border-line/60 border-b align-top">
              <td className="py-1 pr-2 break-all">{d.path}</td>
              <td className="text-soft py-1 pr-2 break-all">{short(at(save.theirs, d.path))}</td>
              <td className="py-1 break-all">{d.op === "remove" ? "—" : short("value" in d ? d.value : "")}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {differences.length > 12 && <p className="text-soft mt-1 text-sm">and {differences.length - 12} more places</p>}
      <div className="mt-5 flex flex-wrap gap-2">
        <Button kind="strong" onClick={() => void keepMine()}>
          Go on with mine
        </Button>
        <Button onClick={takeTheirs}>Go on with the other</Button>
      </div>
    </Dialog>
  );
}

function at(document: unknown, path: string): unknown {
  let here: unknown = document;
  for (const key of path.split("/").slice(1))
    here = (here as Record<string, unknown> | undefined)?.[key.replaceAll("~1", "/").replaceAll("~0", "~")];
  return here;
}

const short = (value: unknown) => {
  const text = value === undefined ? "—" : JSON.stringify(value);
  return text.length > 80 ? `${text.slice(0, 77)}...` : text;
};
