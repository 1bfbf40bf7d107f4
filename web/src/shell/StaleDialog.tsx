// A save met a change made elsewhere at the same place: what differs, in words, and what to do about it.
import { actions, useDesign } from "../design/store";
import { Button } from "../ui/controls";
import { Dialog } from "../ui/dialog";

export function StaleDialog() {
  const save = useDesign((s) => s.save);
  const { takeTheirs, keepMine } = actions;
  if (save.is !== "stale") return null;
  const { conflicts, more, kept } = save.merged;
  return (
    <Dialog title="Changed here and elsewhere" open onOpenChange={() => undefined} wide asks>
      <p>
        {kept
          ? "The same places were changed in this window and in another one. All other changes of both are kept; choose which goes for these."
          : "This was changed in another window too, and the two do not go together. Choose which of them goes on."}{" "}
        Nothing is lost: what you leave behind stays in Record or can be undone.
      </p>
      <table className="mt-4 w-full text-sm">
        <thead>
          <tr className="border-line border-b text-left">
            <th className="py-1 pr-2 font-medium">Where</th>
            <th className="py-1 pr-2 font-medium">Mine</th>
            <th className="py-1 font-medium">The other</th>
          </tr>
        </thead>
        <tbody>
          {conflicts.map((d, i) => (
            <tr key={i} className="border-line/60 border-b align-top">
              <th scope="row" className="py-1 pr-2 text-left font-normal">
                {d.place}
              </th>
              <td className="py-1 pr-2">{d.mine}</td>
              <td className="py-1">{d.theirs}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {more > 0 && <p className="text-soft mt-1 text-sm">and {more} more places</p>}
      <div className="mt-5 flex flex-wrap gap-2">
        <Button kind="strong" onClick={() => void keepMine()}>
          Go on with mine
        </Button>
        <Button onClick={takeTheirs}>Go on with the other</Button>
      </div>
    </Dialog>
  );
}
