// Status by shape, word and colour: a round seal passes, a leaning diamond asks to be watched, a notched square
// fails, an open ring is not known yet.
import type { Finding, Status } from "../types";

const COLOURS: Record<Status, string> = {
  pass: "text-pass",
  watch: "text-watch",
  fail: "text-fail",
  unknown: "text-soft",
};

export function StatusMark({ status, size = 14 }: { status: Status; size?: number }) {
  return (
    <svg viewBox="0 0 16 16" width={size} height={size} aria-hidden className={`shrink-0 ${COLOURS[status]}`}>
      {status === "pass" && (
        <>
          <circle cx="8" cy="8" r="7" fill="currentColor" />
          <path
            d="M4.5 9.5q3.500 3 7-3.500"
            fill="none"
            stroke="var(--sheet)"
            strokeWidth="1.800"
            strokeLinecap="round"
          />
        </>
      )}
      {status === "watch" && (
        <>
          <rect
            x="2.700"
            y="2.700"
            width="10.600"
            height="10.600"
            rx="1.500"
            transform="rotate(45 8 8)"
            fill="currentColor"
          />
          <path d="M5 8h6" stroke="var(--sheet)" strokeWidth="1.800" strokeLinecap="round" />
        </>
      )}
      {status === "fail" && (
        <>
          <path d="M1.500 1.500h13v13h-13z M8 1.500l-2 4 4 0z" fill="currentColor" fillRule="evenodd" />
          <path d="M5.500 11h5" stroke="var(--sheet)" strokeWidth="1.800" />
        </>
      )}
      {status === "unknown" && (
        <circle cx="8" cy="8" r="6" fill="none" stroke="currentColor" strokeWidth="1.800" strokeDasharray="3 2.500" />
      )}
    </svg>
  );
}

export const STATUS_TEXT: Record<Status, string> = COLOURS;

const SEVERITY_STATUS: Record<Finding["severity"], Status> = {
  stop: "fail",
  fix: "fail",
  watch: "watch",
  note: "unknown",
};
const SEVERITY_WORDS: Record<Finding["severity"], string> = {
  stop: "Stop",
  fix: "To mend",
  watch: "Watch",
  note: "Note",
};

export function SeverityMark({ severity }: { severity: Finding["severity"] }) {
  const status = SEVERITY_STATUS[severity];
  return (
    <span className={`inline-flex items-center gap-1.5 text-sm font-semibold ${COLOURS[status]}`}>
      <StatusMark status={status} />
      {SEVERITY_WORDS[severity]}
    </span>
  );
}
