import { Button } from "../../design/Button";

// So many rows the server tells at once.
const PAGE = 200;

interface Props {
  offset: number;
  count: number;
  choose: (changes: Record<string, string>) => void;
}

/** Which of many rows are shown, and the way to the others; nothing where one page holds them all. */
export function Paging({ offset, count, choose }: Props) {
  if (count <= PAGE) return null;
  const go = (to: number) => () => choose({ offset: to > 0 ? String(to) : "" });
  return (
    <nav aria-label="Pages" className="mt-3 flex items-baseline gap-4 text-note">
      {offset + 1} to {Math.min(offset + PAGE, count)} of {count}
      {offset > 0 && <Button onClick={go(offset - PAGE)}>before</Button>}
      {offset + PAGE < count && <Button onClick={go(offset + PAGE)}>further on</Button>}
    </nav>
  );
}
