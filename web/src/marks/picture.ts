import type { Stretch } from "../api/queries";
import { dashOf, type TracedCell } from "./overlay";
import { sealInk, sealLetter } from "./Seal";
import { figure, withUnit } from "./words";

/** Pictures that stand alone: every colour is written out, the caption and the seals stand in the frame. */

const WIDTH = 960;
const HEAD = 58;
const LEFT = 110;
const RIGHT = 24;
const FRAMES = 220;
const LANE = 34;

export interface Caption {
  title: string;
  lines: string[];
  seals: { position: number; label: string; number?: number; layer?: number }[];
}

function colour(value: string): string {
  const name = /^var\((--[\w-]+)\)$/.exec(value)?.[1];
  return name ? getComputedStyle(document.documentElement).getPropertyValue(name).trim() : value;
}

const token = (name: string) => colour(`var(--color-${name})`);

function escaped(text: string): string {
  return text.replaceAll("&", "&amp;").replaceAll("<", "&lt;").replaceAll(">", "&gt;");
}

function text(x: number, y: number, words: string, more = ""): string {
  return `<text x="${x}" y="${y}" ${more}>${escaped(words)}</text>`;
}

function head({ title, lines, seals }: Caption): string {
  let at = 16;
  const legend = seals.map((seal) => {
    const ink = colour(sealInk(seal.position));
    const number = seal.number === undefined ? "" : `, pass ${seal.number}`;
    const words = `${sealLetter(seal.position)}  ${seal.label}${number}`;
    const dash = dashOf(seal.layer ?? 0).join(" ");
    const mark = `<line x1="${at}" x2="${at + 18}" y1="36" y2="36" stroke="${ink}" stroke-width="3" stroke-dasharray="${dash}"/>`;
    const drawn = mark + text(at + 23, 40, words, `fill="${ink}" font-weight="600"`);
    at += 46 + words.length * 6.4;
    return drawn;
  });
  return (
    text(16, 20, title, `font-family="Source Serif 4, Georgia, serif" font-size="15" font-weight="600"`) +
    legend.join("") +
    text(16, 54, lines.join(" · "), `fill="${token("quiet")}"`)
  );
}

function document_(height: number, caption: Caption, body: string): string {
  return (
    `<svg xmlns="http://www.w3.org/2000/svg" width="${WIDTH}" height="${height}" viewBox="0 0 ${WIDTH} ${height}" ` +
    `font-family="Source Sans 3, system-ui, sans-serif" font-size="11.5" fill="${token("ink")}">` +
    `<rect width="100%" height="100%" fill="${token("sheet")}"/>${head(caption)}${body}</svg>`
  );
}

function line(
  t: number[],
  values: (number | null)[],
  x: (at: number) => number,
  y: (value: number) => number,
  range: Stretch,
): string {
  const points = t.flatMap((at, index) => {
    const value = values[index];
    return value === null || value === undefined || at < range.from || at > range.to
      ? []
      : [`${x(at).toFixed(1)},${y(value).toFixed(1)}`];
  });
  return points.join(" ");
}

/** A trace as one SVG: frame times, hitches, what limits, and the given sensor lanes. */
export function traceSvg(cells: TracedCell[], range: Stretch, lanes: string[], caption: Caption): string {
  const x = (at: number) =>
    LEFT + ((at - range.from) / Math.max(1e-9, range.to - range.from)) * (WIDTH - LEFT - RIGHT);
  const inside = cells.flatMap((cell) =>
    cell.trace.frame_ms.filter((_, at) => {
      const t = cell.trace.t_s[at] ?? -1;
      return t >= range.from && t <= range.to;
    }),
  );
  const parts: string[] = [];
  let top = HEAD + 8;
  if (inside.length) {
    const most = Math.max(...inside) * 1.06;
    const y = (ms: number) => top + FRAMES - (ms / most) * FRAMES;
    for (const share of [0, 0.25, 0.5, 0.75, 1]) {
      const at = y(share * most);
      parts.push(
        `<line x1="${LEFT}" x2="${WIDTH - RIGHT}" y1="${at}" y2="${at}" stroke="${token("line")}"/>`,
      );
      parts.push(
        text(LEFT - 6, at + 4, `${figure(share * most)} ms`, `text-anchor="end" fill="${token("quiet")}"`),
      );
    }
    for (const cell of cells) {
      const ink = colour(sealInk(cell.position));
      parts.push(
        `<polyline fill="none" stroke="${ink}" stroke-dasharray="${dashOf(cell.layer).join(" ")}" points="${line(cell.trace.t_s, cell.trace.frame_ms, x, y, range)}"/>`,
      );
      for (const at of cell.trace.hitches_s.filter((one) => one >= range.from && one <= range.to)) {
        parts.push(`<path d="M${x(at).toFixed(1)} ${top + FRAMES + 3}l3 8h-6z" fill="${ink}"/>`);
      }
    }
    top += FRAMES + 16;
  }
  for (const cell of cells) {
    if (!cell.trace.bands.length) continue;
    parts.push(text(LEFT - 6, top + 11, "limited by", `text-anchor="end" fill="${token("quiet")}"`));
    for (const band of cell.trace.bands) {
      const from = Math.max(range.from, band.from_s);
      const to = Math.min(range.to, band.to_s);
      if (to <= from) continue;
      parts.push(
        `<rect x="${x(from)}" y="${top}" width="${x(to) - x(from)}" height="15" fill="${token("band")}" stroke="${token("sheet")}"/>`,
      );
      if (x(to) - x(from) > 70) parts.push(text(x(from) + 4, top + 11, band.kind || "set aside"));
    }
    top += 20;
  }
  for (const name of lanes) {
    const own = cells.flatMap((cell) => {
      const lane = cell.trace.lanes.find((one) => one.name === name);
      return lane ? [{ cell, lane }] : [];
    });
    const first = own[0]?.lane;
    if (!first) continue;
    const values = own.flatMap(({ lane }) => lane.values).filter((one): one is number => one !== null);
    const most = first.capacity ?? Math.max(...values, 1e-9) * 1.05;
    const least = first.capacity === null ? Math.min(...values, most) * 0.9 : 0;
    const base = top + LANE - 6;
    const y = (value: number) => base - ((value - least) / Math.max(1e-9, most - least)) * (LANE - 8);
    parts.push(text(LEFT - 6, base - 8, name, `text-anchor="end"`));
    parts.push(
      `<line x1="${LEFT}" x2="${WIDTH - RIGHT}" y1="${base}" y2="${base}" stroke="${token("line")}"/>`,
    );
    for (const { cell, lane } of own) {
      parts.push(
        `<polyline fill="none" stroke="${colour(sealInk(cell.position))}" stroke-width="1.3" stroke-dasharray="${dashOf(cell.layer).join(" ")}" points="${line(lane.t_s, lane.values, x, y, range)}"/>`,
      );
    }
    parts.push(
      text(
        WIDTH - RIGHT,
        top + 4,
        `to ${withUnit(most, first.unit)}`,
        `text-anchor="end" fill="${token("quiet")}"`,
      ),
    );
    top += LANE;
  }
  for (const share of [0, 0.25, 0.5, 0.75, 1]) {
    const at = range.from + share * (range.to - range.from);
    parts.push(text(x(at), top + 12, `${figure(at)} s`, `text-anchor="middle" fill="${token("quiet")}"`));
  }
  return document_(top + 24, caption, parts.join(""));
}

/** A drawn SVG with its caption; what it takes from the page's style is written out. */
export function framedSvg(drawn: SVGSVGElement, caption: Caption): string {
  const box = drawn.viewBox.baseVal;
  const scale = (WIDTH - 32) / box.width;
  const inner = new XMLSerializer()
    .serializeToString(drawn)
    .replaceAll(/var\(--color-[\w-]+\)/g, (found) => colour(found))
    .replace(/class="[^"]*"/, "")
    .replace("<svg", `<svg x="16" y="${HEAD + 6}" width="${WIDTH - 32}" height="${box.height * scale}"`);
  return document_(HEAD + 18 + box.height * scale, caption, inner);
}

/** An SVG as PNG, at twice its size. */
export async function asPng(svg: string): Promise<Blob> {
  const image = new Image();
  const url = URL.createObjectURL(new Blob([svg], { type: "image/svg+xml" }));
  try {
    image.src = url;
    await image.decode();
    const canvas = document.createElement("canvas");
    canvas.width = image.width * 2;
    canvas.height = image.height * 2;
    const context = canvas.getContext("2d");
    if (!context) throw new Error("This browser cannot draw a picture; save it as SVG.");
    context.drawImage(image, 0, 0, canvas.width, canvas.height);
    return await new Promise((done, failed) =>
      canvas.toBlob((blob) => (blob ? done(blob) : failed(new Error("The picture could not be made.")))),
    );
  } finally {
    URL.revokeObjectURL(url);
  }
}

export function download(content: Blob, name: string): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(content);
  link.download = name;
  link.click();
  window.setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
