// The application's mark.

export function Mark() {
  return (
    <svg viewBox="0 0 32 32" width="28" height="28" aria-hidden>
      <path
        d="M16 4c1.500 5.500-6 8-6 15a6.200 6.200 0 0 0 12.300 1.200c.4-2.800-.5-5-2.100-6.800-.2 2.200-1.200 3.400-2.600 4C19 12.500 18.700 8 16 4Z"
        fill="var(--ember)"
      />
      <path d="M7 28.500h18" stroke="var(--ink)" strokeWidth="2.200" strokeLinecap="round" />
    </svg>
  );
}
