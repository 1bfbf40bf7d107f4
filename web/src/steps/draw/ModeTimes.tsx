// In the head of a mode's column: its time in the day, and where that comes from, to be edited right there.
import { Popover } from "radix-ui";
import { Link, useParams } from "react-router";
import { useOpenDesign } from "../../design/store";
import { OccasionField, SessionLength, SessionOften, WakeLength, WakeOften } from "../../design/fields/dayFields";

type Props = {
  mode: { id: string; name: string };
  said: string;
  /** each thing that happens in it, as one types it */
  happens: string[];
  /** its time in a day, where that is not said already */
  dayText: string | null;
};

export function ModeTimes({ mode, said, happens, dayText }: Props) {
  const { day } = useOpenDesign();
  const { variantId } = useParams();
  const sessions = day.sessions.flatMap((s, i) => (s.mode === mode.id ? [{ s, i }] : []));
  const wakes = day.wakes.flatMap((w, i) => (w.mode === mode.id ? [{ w, i }] : []));
  return (
    <Popover.Root>
      <Popover.Trigger
        className="text-soft hover:bg-well decoration-line -mx-1 block min-h-6 rounded-md px-1 text-left text-xs font-normal underline decoration-dotted underline-offset-3"
        aria-label={`${mode.name}: ${said}. How long and how often`}
      >
        {said}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={4}
          collisionPadding={8}
          aria-label={`${mode.name}: how long and how often`}
          className="rounded-card border-line bg-sheet z-50 max-w-[min(26rem,calc(100vw-1rem))] space-y-3 border p-3 text-[0.9375rem] shadow-lg"
        >
          {mode.id === day.rest && (
            <p>The gadget rests in {mode.name}: all time that nothing else takes. It is chosen in Runtime.</p>
          )}
          {sessions.length + wakes.length > 1 &&
            sessions.map(({ s, i }) => (
              <Row key={s.id} name={s.name} length={<SessionLength i={i} />} often={<SessionOften i={i} />} />
            ))}
          {sessions.length + wakes.length > 1 &&
            wakes.map(({ w, i }) => (
              <Row key={w.id} name={w.name} length={<WakeLength i={i} />} often={<WakeOften i={i} />} />
            ))}
          {mode.id !== day.rest && sessions.length + wakes.length <= 1 && (
            <OccasionField mode={mode} said={happens[0] ?? ""} />
          )}
          {dayText && <p className="text-soft text-sm">That is {dayText}.</p>}
          <p className="text-soft text-sm">
            When, and what else wakes it, is in{" "}
            <Link className="underline underline-offset-2" to={`/gadgets/${variantId}/runtime`}>
              Runtime
            </Link>
            .
          </p>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Row({ name, length, often }: { name: string; length: React.ReactNode; often: React.ReactNode }) {
  return (
    <div>
      <p className="font-medium">{name}</p>
      <div className="flex flex-wrap items-center gap-2">
        <div className="w-28">{length}</div>
        <div className="flex items-center gap-2">{often}</div>
      </div>
    </div>
  );
}
