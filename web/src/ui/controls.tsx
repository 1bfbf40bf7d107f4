// Buttons, small labels, selects and sections: the pieces that every step is laid out with.
import { Loader2 } from "lucide-react";
import type { ButtonHTMLAttributes, ReactNode, SelectHTMLAttributes } from "react";
import { useId } from "react";
import { Explain } from "./terms";

type ButtonKind = "plain" | "strong" | "quiet";
const KINDS: Record<ButtonKind, string> = {
  plain: "border border-line bg-sheet hover:border-ink/50",
  strong: "border border-ink bg-ink text-paper hover:opacity-90",
  quiet: "hover:bg-well",
};

export function Button({
  kind = "plain",
  busy = false,
  className = "",
  children,
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { kind?: ButtonKind; busy?: boolean }) {
  return (
    <button
      type="button"
      {...rest}
      aria-busy={busy || undefined}
      className={`inline-flex min-h-8 items-center justify-center gap-1.5 rounded-full px-3 py-1 text-sm font-medium transition-colors disabled:cursor-default disabled:opacity-45 print:hidden ${KINDS[kind]} ${className}`}
    >
      {busy && <Loader2 size={14} className="animate-spin" aria-hidden />}
      {children}
    </button>
  );
}

/** A link that looks like a button. */
export const PILL =
  "inline-flex min-h-8 items-center gap-1.5 rounded-full border border-line bg-sheet px-3 py-1 text-sm font-medium hover:border-ink/50 print:hidden";

/** Texts that would be understood, to press. The focus stays where it was typed. */
export function Offered({ texts, onPick }: { texts: readonly string[]; onPick: (text: string) => void }) {
  if (!texts.length) return null;
  return (
    <div className="mt-1.5 flex flex-wrap gap-1.5">
      {texts.map((text) => (
        <Button key={text} onMouseDown={(e) => e.preventDefault()} onClick={() => onPick(text)}>
          {text}
        </Button>
      ))}
    </div>
  );
}

export function IconButton({
  label,
  children,
  className = "",
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { label: string }) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      {...rest}
      className={`hover:bg-well inline-flex size-8 items-center justify-center rounded-full disabled:cursor-default disabled:opacity-35 disabled:hover:bg-transparent print:hidden ${className}`}
    >
      {children}
    </button>
  );
}

export function Section({
  title,
  aside,
  children,
  className = "",
}: {
  title: string;
  aside?: ReactNode;
  children: ReactNode;
  className?: string;
}) {
  const id = useId();
  return (
    <section aria-labelledby={id} className={`rounded-card border-line bg-sheet border p-4 ${className}`}>
      <header className="mb-3 flex flex-wrap items-center justify-between gap-2">
        <h2 id={id} className="text-lg leading-tight">
          {title}
        </h2>
        {aside && <div className="flex flex-wrap items-center gap-2">{aside}</div>}
      </header>
      {children}
    </section>
  );
}

export function Labelled({
  label,
  children,
  hint,
  problem,
  id,
}: {
  label: string;
  children: ReactNode;
  hint?: string;
  problem?: string;
  id: string;
}) {
  return (
    <div className="min-w-0">
      <div className="mb-0.5 flex items-center gap-0.5">
        <label htmlFor={id} className="text-soft min-w-0 text-sm">
          {label}
        </label>
        <Explain label={label} field={id} />
      </div>
      {children}
      {problem ? (
        <p id={`${id}-problem`} role="alert" className="text-fail mt-1 text-sm">
          {problem}
        </p>
      ) : (
        hint && (
          <p id={`${id}-hint`} className="text-soft mt-1 text-xs">
            {hint}
          </p>
        )
      )}
    </div>
  );
}

export const INPUT =
  "w-full min-h-8 rounded-md border border-line bg-paper/60 px-2 py-1 text-[0.9375rem] hover:border-ink/40 aria-invalid:border-fail aria-invalid:bg-fail/5 dark:bg-paper";

export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
  hint,
  problem,
  bare = false,
  ...rest
}: Omit<SelectHTMLAttributes<HTMLSelectElement>, "onChange" | "value"> & {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
  hint?: string;
  problem?: string;
  bare?: boolean;
}) {
  const id = useId();
  const select = (
    <select
      {...rest}
      id={id}
      aria-label={bare ? label : undefined}
      aria-invalid={problem ? true : undefined}
      value={value}
      onChange={(e) => onChange(e.target.value as T)}
      className={INPUT}
    >
      {options.map(([key, text]) => (
        <option key={key} value={key}>
          {text}
        </option>
      ))}
    </select>
  );
  return bare ? (
    select
  ) : (
    <Labelled id={id} label={label} hint={hint} problem={problem}>
      {select}
    </Labelled>
  );
}

export function Check({
  label,
  checked,
  onChange,
}: {
  label: string;
  checked: boolean;
  onChange: (checked: boolean) => void;
}) {
  const id = useId();
  return (
    <div className="flex items-center gap-0.5">
      <label className="flex min-h-8 items-center gap-2 text-sm">
        <input
          id={id}
          type="checkbox"
          checked={checked}
          onChange={(e) => onChange(e.target.checked)}
          className="size-4 accent-(--ink)"
        />
        {label}
      </label>
      <Explain label={label} field={id} />
    </div>
  );
}

/** Any number of some things, each on or off. */
export function Toggles<T extends string>({
  label,
  options,
  chosen,
  onChange,
}: {
  label: string;
  options: readonly (readonly [T, string])[];
  chosen: readonly T[];
  onChange: (chosen: T[]) => void;
}) {
  return (
    <div role="group" aria-label={label}>
      <p className="text-soft mb-0.5 text-sm">{label}</p>
      <div className="flex flex-wrap gap-1.5">
        {options.map(([key, name]) => {
          const on = chosen.includes(key);
          return (
            <Button
              key={key}
              kind={on ? "strong" : "plain"}
              aria-pressed={on}
              onClick={() => onChange(on ? chosen.filter((k) => k !== key) : [...chosen, key])}
            >
              {name}
            </Button>
          );
        })}
      </div>
    </div>
  );
}

export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="rounded-card border-line border border-dashed px-6 py-8 text-center">
      <p className="font-display text-lg">{title}</p>
      {children && <div className="text-soft mx-auto mt-2 max-w-prose">{children}</div>}
    </div>
  );
}
