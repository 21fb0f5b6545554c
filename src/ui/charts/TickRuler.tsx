/** The running ornament: a hairline with fine ticks, long ones at each of `steps` equal parts. Purely decorative. */
export function TickRuler({ steps, active, minor = 6 }: { steps: number; active?: number | undefined; minor?: number }) {
  const all = steps * minor;
  return (
    <svg width="100%" height="12" style={{ display: "block", overflow: "visible" }} aria-hidden>
      <line x1="0" x2="100%" y1="0.5" y2="0.5" stroke="var(--chakra-colors-ink)" strokeWidth="1" />
      {active !== undefined && active >= 0 && (
        <line
          x1={`${(100 * active) / steps}%`}
          x2={`${(100 * (active + 1)) / steps}%`}
          y1="1"
          y2="1"
          stroke="var(--chakra-colors-accent-solid)"
          strokeWidth="3"
        />
      )}
      {Array.from({ length: all + 1 }, (_, i) => i).map((i) => (
        <line
          key={i}
          x1={`${(100 * i) / all}%`}
          x2={`${(100 * i) / all}%`}
          y1="0"
          y2={i % minor === 0 ? 12 : 5}
          stroke={i % minor === 0 ? "var(--chakra-colors-ink)" : "var(--chakra-colors-tick)"}
          strokeWidth="1"
        />
      ))}
    </svg>
  );
}
