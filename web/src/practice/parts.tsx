import { Link } from "react-router";
import type { Schemas } from "../api/client";

/** How often right of how often: a filled square for each that was, an open one for each that was not; a fraction where there are many. */
export function Share({ right, of }: { right: number; of: number }) {
  if (!of) return null;
  const words = `${right} of ${of} right`;
  return (
    <span className="share" title={words}>
      {of <= 12 ? (
        <svg viewBox={`0 0 ${of * 14} 12`} width={of * 14} height={12} role="img" aria-label={words}>
          {Array.from({ length: of }, (_, at) => (
            <rect
              key={at}
              x={at * 14 + 1}
              y={1}
              width={10}
              height={10}
              className={at < right ? "share-right" : "share-not"}
            />
          ))}
        </svg>
      ) : (
        words
      )}
    </span>
  );
}

/** What a practice came to, or that it is under way; it leads to the bench, or to what was true. */
export function RowState({ row }: { row: Schemas["PracticeRow"] }) {
  if (row.open) return <Link to={`/jobs/${row.job}`}>Go on</Link>;
  return (
    <Link to={`/practice/${row.job}`} className={row.good ? "practice-good" : "practice-not"}>
      {row.good ? "✓" : "✕"} {row.verdict}
    </Link>
  );
}
