// Sign in, sign up, or try the demo in one click.
import { useId, useState, type FormEvent } from "react";
import { useNavigate } from "react-router";
import { useSessionChange } from "../api/queries";
import { Mark } from "../shell/Mark";
import { Button, INPUT, Labelled } from "../ui/controls";

export function SignIn({ demo }: { demo: boolean }) {
  const [isNew, setNew] = useState(false);
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const change = useSessionChange();
  const navigate = useNavigate();
  const nameId = useId();
  const passwordId = useId();
  const submit = (e: FormEvent) => {
    e.preventDefault();
    change.mutate({ do: isNew ? "up" : "in", name, password }, { onSuccess: () => navigate("/gadgets") });
  };
  const general = change.error && change.error.problems.length === 0 ? change.error.message : undefined;
  return (
    <main className="grid min-h-screen items-center gap-10 p-6 md:grid-cols-[1.2fr_1fr] md:p-12">
      <div className="mx-auto max-w-lg">
        <div className="flex items-center gap-3">
          <Mark />
          <span className="font-display text-xl font-semibold">Frugal Ember</span>
        </div>
        <h1 className="mt-8 text-4xl leading-tight md:text-5xl">How long will it last, and will it close?</h1>
        <p className="text-soft mt-5 text-lg">
          Put in the parts of your gadget. See what each one draws in every mode, what the battery really gives, how
          long a charge lasts, what sleeping saves, and whether it all goes into the printed case. Every figure shows
          how it came about.
        </p>
        {demo && (
          <div className="mt-8">
            <Button
              kind="strong"
              className="min-h-11 px-6 text-base"
              busy={change.isPending && change.variables?.do === "demo"}
              onClick={() => change.mutate({ do: "demo" }, { onSuccess: () => navigate("/gadgets") })}
            >
              Look around in the demo
            </Button>
            <p className="text-soft mt-2 text-sm">Made-up gadgets to look at and take apart; no account needed.</p>
          </div>
        )}
      </div>
      <form
        onSubmit={submit}
        className="rounded-card border-line bg-sheet mx-auto w-full max-w-sm border p-6"
        noValidate
      >
        <h2 className="text-xl">{isNew ? "New account" : "Sign in"}</h2>
        <div className="mt-4 space-y-3">
          <Labelled
            id={nameId}
            label="Name"
            hint={isNew ? "3 to 40 letters, digits or . @ + - _" : undefined}
            problem={change.error?.at("/name")}
          >
            <input
              id={nameId}
              className={INPUT}
              autoComplete="username"
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
          </Labelled>
          <Labelled
            id={passwordId}
            label="Password"
            hint={isNew ? "At least 8 characters; not only digits, no usual word, nothing like the name." : undefined}
            problem={change.error?.at("/password")}
          >
            <input
              id={passwordId}
              type="password"
              className={INPUT}
              autoComplete={isNew ? "new-password" : "current-password"}
              value={password}
              onChange={(e) => setPassword(e.target.value)}
            />
          </Labelled>
          {general && (
            <p role="alert" className="text-fail text-sm">
              {general}
            </p>
          )}
        </div>
        <div className="mt-5 flex items-center justify-between gap-3">
          <Button type="submit" kind="strong" busy={change.isPending && change.variables?.do !== "demo"}>
            {isNew ? "Make the account" : "Sign in"}
          </Button>
          <button
            type="button"
            className="text-sm underline underline-offset-2"
            onClick={() => {
              setNew(!isNew);
              change.reset();
            }}
          >
            {isNew ? "I have an account" : "I have no account yet"}
          </button>
        </div>
      </form>
    </main>
  );
}
