import { useId, useState, type FormEvent } from "react";
import { useSessionChange } from "../api/queries";
import { Button, INPUT, Labelled } from "../ui/controls";
import { Dialog } from "../ui/dialog";

export function PasswordDialog({ open, onOpenChange }: { open: boolean; onOpenChange: (o: boolean) => void }) {
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  const change = useSessionChange();
  const oldId = useId();
  const newId = useId();
  const submit = (e: FormEvent) => {
    e.preventDefault();
    change.mutate(
      { do: "password", old, new: fresh },
      {
        onSuccess: () => {
          setOld("");
          setFresh("");
        },
      },
    );
  };
  return (
    <Dialog title="Change the password" open={open} onOpenChange={onOpenChange}>
      <form onSubmit={submit} className="space-y-3">
        <Labelled id={oldId} label="Password now" problem={change.error?.at("/old")}>
          <input
            id={oldId}
            type="password"
            autoComplete="current-password"
            className={INPUT}
            value={old}
            onChange={(e) => setOld(e.target.value)}
          />
        </Labelled>
        <Labelled id={newId} label="New password" problem={change.error?.at("/new")}>
          <input
            id={newId}
            type="password"
            autoComplete="new-password"
            className={INPUT}
            value={fresh}
            onChange={(e) => setFresh(e.target.value)}
          />
        </Labelled>
        <div className="flex items-center gap-3">
          <Button type="submit" kind="strong" busy={change.isPending}>
            Change it
          </Button>
          {change.isSuccess && <span role="status">The password is changed.</span>}
        </div>
      </form>
    </Dialog>
  );
}
