import type { Shapes } from "../../api/client";
import { columnOf } from "../../api/lookup";
import { Seal } from "../../marks/Seal";

type Content = Shapes["RecordContent"];

/** What each configuration is made of, part by part and setting by setting. */
export function Configurations({ content }: { content: Content }) {
  return (
    <div className="mt-3 grid gap-x-6 gap-y-3 sm:grid-cols-2 lg:grid-cols-3">
      {content.configurations.map((one) => {
        const column = columnOf(content.review, one.column);
        return (
          <details key={one.column} className="text-note" open={content.configurations.length <= 3}>
            <summary className="cursor-pointer font-semibold">
              {column && <Seal position={column.position} label={column.label} size={18} />} {column?.label}
              <span className="font-normal text-quiet">
                {" "}
                {one.system}, {one.configuration}
              </span>
            </summary>
            <dl className="mt-1 grid grid-cols-[minmax(90px,auto)_1fr] gap-x-3">
              {[...one.parts, ...one.settings].map((row) => (
                <div key={row.name} className="contents">
                  <dt className="text-quiet">{row.name}</dt>
                  <dd>{row.value}</dd>
                </div>
              ))}
            </dl>
          </details>
        );
      })}
    </div>
  );
}
