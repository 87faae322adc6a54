/** The mark of a reference: its number in a broken outline, as it is no configuration of the review. */
export function ReferenceMark({ number, label }: { number: number; label: string }) {
  return (
    <svg
      width={22}
      height={22}
      viewBox="0 0 24 24"
      role="img"
      aria-label={`reference ${number}, ${label}`}
      className="inline-block shrink-0 align-middle"
    >
      <rect
        x="3"
        y="3"
        width="18"
        height="18"
        fill="none"
        stroke="var(--color-ink)"
        strokeWidth="1.6"
        strokeDasharray="3.5 2.5"
      />
      <text x="12" y="16.4" textAnchor="middle" fontSize="12" fontWeight="700" fill="var(--color-ink)">
        {number}
      </text>
    </svg>
  );
}
