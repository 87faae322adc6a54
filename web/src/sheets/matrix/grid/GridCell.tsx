import { useState, type DragEvent, type KeyboardEvent, type ReactNode } from "react";
import type { CellPlace } from "../place";

interface Props {
  cell: CellPlace;
  onPaste?: (text: string) => void;
  label: string;
  place: string;
  tabbable: boolean;
  chosen: boolean;
  onFocus: () => void;
  onKey: (event: KeyboardEvent) => void;
  onClick: (beside: boolean) => void;
  onFile?: (file: File) => void;
  children: ReactNode;
}

/** A cell that can be walked to, opened, dropped on and pasted into. */
export function GridCell(props: Props) {
  const [over, setOver] = useState(false);
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    const file = event.dataTransfer.files[0];
    if (file) props.onFile?.(file);
  };
  return (
    <td
      role="gridcell"
      aria-selected={props.chosen}
      tabIndex={props.tabbable ? 0 : -1}
      data-at={props.place}
      data-cell={`${props.cell.test}.${props.cell.metric}.${props.cell.column}`}
      onPaste={
        props.onPaste &&
        ((event) => {
          if (event.target !== event.currentTarget) return;
          event.preventDefault();
          props.onPaste?.(event.clipboardData.getData("text/plain"));
        })
      }
      onFocus={props.onFocus}
      onKeyDown={props.onKey}
      onClick={(event) => props.onClick(event.shiftKey || event.ctrlKey || event.metaKey)}
      onDragOver={(event) => {
        if (!props.onFile) return;
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
      className={`h-[41px] cursor-pointer border-l border-line px-2.5 py-0.5 focus-visible:outline-offset-[-2px] ${props.chosen ? "shadow-[inset_0_0_0_2px_var(--color-mark)]" : "hover:bg-paper"} ${over ? "bg-band" : ""}`}
    >
      {/* Part of what the cell says, where a name of its own would hide the rest. */}
      <span className="sr-only">{props.label}: </span>
      {over ? <span className="text-note">Drop: it becomes a pass of this cell</span> : props.children}
    </td>
  );
}
