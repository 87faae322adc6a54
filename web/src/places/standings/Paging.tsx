import { Button } from "../../design/Button";

interface Props {
  offset: number;
  count: number;
  /** How many rows the server tells at once. */
  page: number;
  choose: (changes: Record<string, string>) => void;
}

/** Which of many rows are shown, and the way to the others; nothing where one page holds them all. */
export function Paging({ offset, count, page, choose }: Props) {
  if (count <= page && offset === 0) return null;
  const go = (to: number) => () => choose({ offset: to > 0 ? String(to) : "" });
  return (
    <nav aria-label="Pages" className="mt-3 flex items-baseline gap-4 text-note">
      {offset < count
        ? `${offset + 1} to ${Math.min(offset + page, count)} of ${count}`
        : `no more than ${count}`}
      {offset > 0 && <Button onClick={go(Math.min(offset, count) - page)}>before</Button>}
      {offset + page < count && <Button onClick={go(offset + page)}>further on</Button>}
    </nav>
  );
}
