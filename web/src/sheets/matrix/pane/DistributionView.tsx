import { useQueries } from "@tanstack/react-query";
import { useRef } from "react";
import type { TestShape } from "../../../api/client";
import { distributionQuery } from "../../../api/queries";
import { Distribution, type Distributed } from "../../../marks/Distribution";
import { framedSvg } from "../../../marks/picture";
import { Loading } from "../../../shell/States";
import { SavePicture } from "../SavePicture";
import { captionOf } from "./caption";
import { hasFrames, type ChosenPass } from "./chosen";
import { useMatrix, useReview } from "../../../api/review";

interface Props {
  test: TestShape | undefined;
  chosen: ChosenPass[];
}

/** How the frame times of the chosen passes are spread, over what counts of them. */
export function DistributionView({ test, chosen }: Props) {
  const review = useReview();
  const matrix = useMatrix();
  const place = useRef<HTMLDivElement>(null);
  const drawable = chosen.filter(({ pass }) => hasFrames(pass));
  const found = useQueries({ queries: drawable.map(({ pass }) => distributionQuery(pass.id, null)) });
  // Histograms share one scale: the longest of the passes'.
  const top = Math.max(0, ...found.map((one) => one.data?.edges_ms.at(-1) ?? 0));
  const scaled = useQueries({
    queries: drawable.map(({ pass }) => ({
      ...distributionQuery(pass.id, top),
      enabled: drawable.length > 1 && found.every((one) => one.data),
    })),
  });
  const shapes = drawable.length > 1 ? scaled : found;
  const failed = found.find((one) => one.isError);
  if (failed?.error) return <p className="text-mark">{failed.error.message}</p>;
  if (!drawable.length) return <p className="font-serif text-quiet">These passes have no frames.</p>;
  const passes: Distributed[] = drawable.flatMap(({ pass, column, layer }, at) => {
    const shape = shapes[at]?.data;
    return shape
      ? [{ key: pass.id, position: column.position, label: column.label, number: pass.number, layer, shape }]
      : [];
  });
  if (passes.length < drawable.length) return <Loading what="Reading the distribution" />;
  const svg = () => {
    const drawn = place.current?.querySelector<SVGSVGElement>("svg[role=img]");
    const caption = captionOf(review, matrix, test, drawable, [
      "above: frame time by the share of slower frames; below: how many last how long",
      `bars: the lows, ${matrix.low_words}, hollow where the tail is thin`,
    ]);
    return drawn ? framedSvg(drawn, caption) : null;
  };
  const csv = () =>
    [
      "configuration,pass,share_slower,frame_ms",
      ...passes.flatMap(({ label, number, shape }) =>
        shape.share_slower.map(
          (share, at) => `"${label.replaceAll('"', '""')}",${number},${share},${shape.curve_ms[at]}`,
        ),
      ),
    ].join("\r\n");
  return (
    <div ref={place}>
      <Distribution passes={passes} lowWords={matrix.low_words} />
      <SavePicture svg={svg} csv={csv} name={`distribution-${test?.workload ?? "cell"}`} />
    </div>
  );
}
