import type { Shapes } from "../../api/client";
import { columnOf } from "../../api/lookup";
import { Seal } from "../../marks/Seal";

type Content = Shapes["RecordContent"];

/** The answer, and the advice by use in its words. */
export function Concluded({ content }: { content: Content }) {
  const { verdict, review } = content;
  return (
    <section className="mt-4 max-w-[820px]" aria-label="Verdict">
      {verdict.answer && <p className="mb-4 font-serif text-title">{verdict.answer}</p>}
      {verdict.uses?.map((use) => (
        <div key={use.name} className="border-t border-line py-2.5">
          <div className="mb-1 flex flex-wrap items-center gap-x-4">
            {use.name && <h2 className="font-semibold">For {use.name}</h2>}
            {use.judged.map((one) => {
              const column = columnOf(review, one.column);
              return (
                column && (
                  <span key={one.column} className="inline-flex items-center gap-1 text-note">
                    <span className="text-quiet">{one.call}</span>
                    <Seal position={column.position} label={column.label} size={18} /> {column.label}{" "}
                    {one.note}
                  </span>
                )
              );
            })}
          </div>
          {use.paragraphs.map((paragraph, at) => (
            <p key={at} className="mb-2 font-serif text-[18px]">
              {paragraph.map((segment, place) => (
                <span key={place}>
                  {segment.text}
                  {segment.finding ? <sup className="text-mark">{segment.finding}</sup> : null}
                </span>
              ))}
            </p>
          ))}
        </div>
      ))}
    </section>
  );
}
