import type { Shapes } from "../api/client";
import { count, figure, quantity } from "./words";

/** What modules amount to, and what is wrong with where they sit. */
export function Population({ shape }: { shape: Shapes["PopulationShape"] }) {
  return (
    <div className="mt-2 text-note" role="status" aria-label="Memory">
      <p>
        <strong>{quantity(shape.capacity_gb)} GB</strong> in {count(shape.modules, "module")},{" "}
        {shape.channels} of {count(shape.channels_of, "channel")} in use
        {shape.rate_mts !== null && `, ${quantity(shape.rate_mts)} MT/s`}
        {shape.peak_gbs !== null && (
          <>
            , at most <strong>{figure(shape.peak_gbs)} GB/s</strong>
          </>
        )}
        .
      </p>
      {shape.mistakes.map((mistake) => (
        <p key={mistake.kind + mistake.words} className="mt-0.5">
          <span className="text-mark">
            <span aria-hidden="true">⚑ </span>
            {sentence(mistake.words)}
          </span>{" "}
          {mistake.remedy}
        </p>
      ))}
    </div>
  );
}

function sentence(words: string): string {
  return `${words.charAt(0).toUpperCase()}${words.slice(1)}.`;
}
