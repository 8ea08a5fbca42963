import type { Drawing } from '../formats/drawing';
import { areaOf, boxOf, lengthAround, outlinesOf, type Ring } from '../polygons';
import { widened } from './plan';

/** Layers of drawings that are outlines by their name. */
const OUTLINE = /outline|profile|board|edge|rim/i;
/** A ring of less than this share of what it encloses is the way of a pen. */
const PEN = 0.2;

/**
 * The rim of a board out of a drawing: its largest outline, of the layer that is named so where there is one; where it was drawn with a
 * pen, the middle of the pen's way. Its lower left corner becomes the origin.
 */
export function rimOf({ layers }: Pick<Drawing, 'layers'>): Ring {
  const layer = layers.find((l) => OUTLINE.test(l.name)) ?? layers[0];
  const rings = outlinesOf(layer.outlines.map((o) => [...o]));
  const outer = rings.reduce((best, r) => (areaOf(r) > areaOf(best) ? r : best));
  const { x0, x1, y0, y1 } = boxOf(outer);
  const hole = rings
    .filter((r) => areaOf(r) < 0 && r.every(([x, y]) => x > x0 && x < x1 && y > y0 && y < y1))
    .reduce<Ring | undefined>((best, r) => (!best || areaOf(r) < areaOf(best) ? r : best), undefined);
  const ring = hole ? areaOf(outer) + areaOf(hole) : areaOf(outer);
  const rim = ring < PEN * areaOf(outer) ? (widened(outer, -ring / lengthAround(outer) / 2) ?? outer) : outer;
  const { x0: left, y0: low } = boxOf(rim);
  // Whole nanometres: what a file of ours says is the same again.
  return rim.map(
    ([x, y]) => [Math.round((x - left) * 1e9) / 1e9, Math.round((y - low) * 1e9) / 1e9] as const,
  );
}
