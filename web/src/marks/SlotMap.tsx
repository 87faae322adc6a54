import { useState } from "react";
import { Menu } from "../design/Menu";

export interface SlotPlace {
  name: string;
  channel: string;
  fill: number;
}

export interface ModuleChoice {
  part: number;
  module: number;
  words: string;
}

interface Props {
  slots: SlotPlace[];
  /** What sits in each slot. */
  fitted: Record<string, ModuleChoice | undefined>;
  /** Slots that a mistake names. */
  marked: string[];
  /** Modules that can be put in; without them the map is only looked at. */
  choices?: ModuleChoice[];
  onPut?: (slot: string, module: ModuleChoice | null) => void;
}

/** A board's memory slots, channel by channel, in the order in which the board wants them filled. */
export function SlotMap({ slots, fitted, marked, choices, onPut }: Props) {
  const [over, setOver] = useState<string | null>(null);
  const channels = [...new Set(slots.map((slot) => slot.channel))];
  if (!slots.length) return <p className="text-note text-quiet">No slot map is known for its board.</p>;
  const drop = (slot: string, data: DataTransfer) => {
    setOver(null);
    const from = data.getData("text/slot");
    const module = from ? fitted[from] : choices?.find((one) => keyOf(one) === data.getData("text/module"));
    if (!module || from === slot) return;
    if (from) onPut?.(from, fitted[slot] ?? null);
    onPut?.(slot, module);
  };
  return (
    <div className="flex flex-wrap gap-4" role="group" aria-label="Memory slots">
      {channels.map((channel) => {
        const own = slots.filter((slot) => slot.channel === channel);
        const used = own.some((slot) => fitted[slot.name]);
        return (
          <div
            key={channel}
            className={`border-t-2 pt-1 ${used ? "border-ink" : "border-line"}`}
            role="group"
            aria-label={`Channel ${channel}, ${used ? "in use" : "not in use"}`}
          >
            <div className="text-small text-quiet">
              channel {channel} {used ? "in use" : "idle"}
            </div>
            <div className="mt-1 flex gap-1.5">
              {own.map((slot) => {
                const module = fitted[slot.name];
                const wrong = marked.includes(slot.name);
                const face = (
                  <Face
                    at={slot}
                    module={module}
                    wrong={wrong}
                    over={over === slot.name}
                    button={Boolean(onPut)}
                  />
                );
                if (!onPut) return <div key={slot.name}>{face}</div>;
                return (
                  <div
                    key={slot.name}
                    draggable={Boolean(module)}
                    onDragStart={(event) => event.dataTransfer.setData("text/slot", slot.name)}
                    onDragOver={(event) => {
                      event.preventDefault();
                      setOver(slot.name);
                    }}
                    onDragLeave={() => setOver(null)}
                    onDrop={(event) => {
                      event.preventDefault();
                      drop(slot.name, event.dataTransfer);
                    }}
                  >
                    <Menu
                      label={`Slot ${slot.name}: ${module?.words ?? "empty"}${wrong ? ", marked" : ""}`}
                      trigger={face}
                      items={[
                        { label: "empty", act: () => onPut(slot.name, null) },
                        ...(choices ?? []).map((one) => ({
                          label: one.words,
                          act: () => onPut(slot.name, one),
                        })),
                      ]}
                    />
                  </div>
                );
              })}
            </div>
          </div>
        );
      })}
    </div>
  );
}

export function keyOf(module: ModuleChoice): string {
  return `${module.part}#${module.module}`;
}

interface FaceProps extends React.HTMLAttributes<HTMLElement> {
  at: SlotPlace;
  module: ModuleChoice | undefined;
  wrong: boolean;
  over: boolean;
  button: boolean;
  ref?: React.Ref<HTMLButtonElement>;
}

/** One slot, drawn upright as it stands on a board. */
function Face({ at, module, wrong, over, button, ref, ...rest }: FaceProps) {
  const dress = `flex h-36 w-14 flex-col items-center justify-between border-2 px-1 py-1.5 text-small ${
    wrong ? "border-mark" : module ? "border-ink" : "border-dashed border-quiet"
  } ${module ? "bg-band" : "bg-sheet"} ${over ? "outline-2 outline-mark" : ""}`;
  const inside = (
    <>
      <span className="font-semibold">
        {at.name}
        {wrong && " ⚑"}
      </span>
      <span className="flex-1 overflow-hidden py-1 leading-tight [writing-mode:vertical-rl]">
        {module?.words ?? <span className="text-quiet">empty</span>}
      </span>
      <span className="text-quiet" title={`Filled as number ${at.fill}`}>
        {at.fill}.
      </span>
    </>
  );
  if (!button) {
    return (
      <div className={dress} role="img" aria-label={`Slot ${at.name}: ${module?.words ?? "empty"}`}>
        {inside}
      </div>
    );
  }
  return (
    <button type="button" ref={ref} className={`${dress} hover:bg-band`} {...rest}>
      {inside}
    </button>
  );
}
