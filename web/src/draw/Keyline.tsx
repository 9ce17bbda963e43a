import "./plot.css";

/** What a drawing's lines are: solid copper as built, dashed tide as planned or computed. */
export function Keyline({ lines: [solid, dashed] }: { lines: [string, string] }) {
  return (
    <ul className="keyline">
      <li>
        <svg viewBox="0 0 34 10" aria-hidden="true">
          <path d="M1 5H33" stroke="var(--copper)" strokeWidth="3.4" />
        </svg>
        {solid}
      </li>
      <li>
        <svg viewBox="0 0 34 10" aria-hidden="true">
          <path d="M1 5H33" stroke="var(--tide)" strokeWidth="2" strokeDasharray="7 5" />
        </svg>
        {dashed}
      </li>
    </ul>
  );
}
