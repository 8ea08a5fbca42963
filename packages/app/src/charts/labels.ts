/** A rectangle in pixels. */
export interface Box {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

export type Anchor = 'start' | 'middle' | 'end';

/** A text where it is drawn: `y` is its base line. */
export interface PlacedText {
  readonly text: string;
  readonly x: number;
  readonly y: number;
  readonly anchor: Anchor;
}

/** Width of a character of 11 px, on the average. */
const CHARACTER = 6.3;
export const widthOf = (text: string): number => CHARACTER * text.length;

/** Where the letters of a text lie. */
export function boxOf({ text, x, y, anchor }: PlacedText): Box {
  const width = widthOf(text);
  return {
    x: anchor === 'start' ? x : anchor === 'end' ? x - width : x - width / 2,
    y: y - 10,
    width,
    height: 12,
  };
}

export const overlap = (a: Box, b: Box): boolean =>
  a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;

const AROUND: readonly (readonly [number, number, Anchor])[] = [
  [9, -6, 'start'],
  [9, 14, 'start'],
  [-9, -6, 'end'],
  [-9, 14, 'end'],
  [0, -13, 'middle'],
  [0, 22, 'middle'],
  [16, -20, 'start'],
  [-16, -20, 'end'],
  [16, 28, 'start'],
  [-16, 28, 'end'],
  [0, -30, 'middle'],
  [0, 38, 'middle'],
];

/**
 * Places labels around their points, each at the first place where it lies on nothing that is taken and inside the
 * bounds; undefined where there is none. Earlier labels come first.
 */
export function placeAround(
  points: readonly { readonly x: number; readonly y: number; readonly text: string }[],
  taken: readonly Box[],
  bounds: Box,
): (PlacedText | undefined)[] {
  const boxes = [...taken];
  const inside = (b: Box) =>
    b.x >= bounds.x &&
    b.y >= bounds.y &&
    b.x + b.width <= bounds.x + bounds.width &&
    b.y + b.height <= bounds.y + bounds.height;
  return points.map(({ x, y, text }) => {
    for (const [dx, dy, anchor] of AROUND) {
      const placed: PlacedText = { text, x: x + dx, y: y + dy, anchor };
      const box = boxOf(placed);
      if (!inside(box) || boxes.some((b) => overlap(b, box))) continue;
      boxes.push(box);
      return placed;
    }
    return undefined;
  });
}

/** Rows for labels along a line, so that none lies on another: the first row in which each has room. */
export function rowsOf(labels: readonly { readonly x: number; readonly text: string }[]): number[] {
  const ends: number[] = [];
  const rows = new Array<number>(labels.length).fill(0);
  const order = labels.map((l, i) => ({ ...l, i })).sort((a, b) => a.x - b.x);
  for (const { x, text, i } of order) {
    const half = widthOf(text) / 2 + 4;
    // Above the plot a label stands over its mark, inside it beside the mark.
    let row = 0;
    while (row < ends.length && ends[row] > (row === 0 ? x - half : x)) row++;
    ends[row] = row === 0 ? x + half : x + 2 * half;
    rows[i] = row;
  }
  return rows;
}

/** Letters on a line of a label beside a chart. */
const LINE = 22;

/** A label in at most two lines, broken between words; what is longer ends in an ellipsis. */
export function linesOf(label: string): readonly string[] {
  const cut = (text: string) => (text.length > LINE ? `${text.slice(0, LINE - 1)}\u2026` : text);
  if (label.length <= LINE) return [label];
  const at = label.lastIndexOf(' ', LINE);
  return at < 4 ? [cut(label)] : [label.slice(0, at), cut(label.slice(at + 1))];
}
