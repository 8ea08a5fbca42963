import type { Layout } from '@ditch/core/artwork';
import { lengthUnit } from '@ditch/core/units';

/** How places on the board (m, y up) become places on the screen (pixels, y down). */
export interface View {
  /** Pixels per metre. */
  readonly scale: number;
  sx(x: number): number;
  sy(y: number): number;
}

export interface Camera {
  /** Place on the board in the middle of the screen. */
  readonly x: number;
  readonly y: number;
  readonly scale: number;
}

export function viewOf(camera: Camera, size: { width: number; height: number }): View {
  const { x, y, scale } = camera;
  return {
    scale,
    sx: (px) => size.width / 2 + (px - x) * scale,
    sy: (py) => size.height / 2 - (py - y) * scale,
  };
}

/** The camera that shows all of a layout, or undefined where there is nothing to show. */
export function fitCamera(
  { box, pieces }: Layout,
  size: { width: number; height: number },
  margin: number,
): Camera | undefined {
  if (pieces.length === 0 || size.width === 0) return undefined;
  const scale = Math.max(
    1,
    Math.min(
      (size.width - 2 * margin) / Math.max(box.width, 1e-6),
      (size.height - 2 * margin) / Math.max(box.height, box.width / 40, 1e-6),
      1.5e5,
    ),
  );
  return { x: box.x + box.width / 2, y: box.y + box.height / 2, scale };
}

export function fitView(
  layout: Layout,
  size: { width: number; height: number },
  margin: number,
): View | undefined {
  const camera = fitCamera(layout, size, margin);
  return camera && viewOf(camera, size);
}

/** A hundredth of a pixel; far quicker than writing digits. */
export const fine = (v: number): number => Math.round(v * 100) / 100;

export const pointsOf = (view: View, polygon: readonly { x: number; y: number }[]): string =>
  polygon.map((p) => `${fine(view.sx(p.x))},${fine(view.sy(p.y))}`).join(' ');

/** A length with one leading digit of 1, 2 or 5 in the unit lengths are shown in, and at most `most`, m. */
export function roundLength(most: number): number {
  const { size } = lengthUnit();
  const decade = Math.pow(10, Math.floor(Math.log10(most / size))) * size;
  return (most >= 5 * decade ? 5 : most >= 2 * decade ? 2 : 1) * decade;
}

/** All polygons as one path: edges that two of them share leave no seam. */
export function pathOf(view: View, polygons: readonly (readonly { x: number; y: number }[])[]): string {
  let d = '';
  for (const polygon of polygons) {
    let pen = 'M';
    for (const p of polygon) {
      d += pen + fine(view.sx(p.x)) + ' ' + fine(view.sy(p.y));
      pen = 'L';
    }
    d += 'Z';
  }
  return d;
}
