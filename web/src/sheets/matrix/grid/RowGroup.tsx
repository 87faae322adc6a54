import { useEffect, useRef, useState, type ReactNode } from "react";

/** Rows of a long grid are drawn in groups of so many. */
export const GROUP = 10;

const NEAR_PX = 900;

interface Props {
  rows: number;
  columns: number;
  /** About how high a row is, for the place of a group that is not drawn. */
  rowHeight: number;
  /** Drawn wherever it is: the group that holds the focus. */
  held: boolean;
  children: () => ReactNode;
}

/** A group of rows, drawn only while it is near the window: a full review has thousands of cells. */
export function RowGroup({ rows, columns, rowHeight, held, children }: Props) {
  const body = useRef<HTMLTableSectionElement>(null);
  const [near, setNear] = useState(false);
  useEffect(() => {
    const element = body.current;
    if (!element) return;
    const observer = new IntersectionObserver(
      (entries) => setNear(entries.some((entry) => entry.isIntersecting)),
      {
        rootMargin: `${NEAR_PX}px`,
      },
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  return (
    <tbody ref={body}>
      {near || held ? (
        children()
      ) : (
        <tr aria-hidden="true">
          <td colSpan={columns + 1} style={{ height: rows * rowHeight }} />
        </tr>
      )}
    </tbody>
  );
}
