import type { EnclosureSide } from '../network';
import {
  areaOf,
  boxOf,
  changed,
  copperAround,
  nearestBetween,
  outlinesIn,
  sidesOf,
  swept,
  type Point,
  type Ring,
} from '../polygons';
import type { BoardPort, Hole } from './board';
import { ROUNDING } from './place';
import { widened } from './plan';

/** Ports this near to the rim stand at it, m. */
const AT_RIM = 2e-5;
/** From the rim to the first hole of a launch, in diameters of it. */
const RIM = 1.25;
/** Copper around the holes of fences, in their diameters. */
const COLLAR = 0.5;
/** Straight sides are off round pads by less than this, m. */
export const CHORD = 1e-6;

/** The side of the rim that an outward direction leads over. */
function sideOf([nx, ny]: Point): EnclosureSide {
  if (Math.abs(nx) > Math.abs(ny)) return nx < 0 ? 'left' : 'right';
  return ny < 0 ? 'front' : 'back';
}

/** Ports that stand at the rim and lead over it, each with the direction out of the board. */
export const atRim = (ports: readonly BoardPort[], board: Ring): readonly BoardPort[] =>
  ports.filter((port) => {
    const out: Point = [Math.cos(port.angle), Math.sin(port.angle)];
    return board.some((a, i) => {
      const b = board[(i + 1) % board.length];
      const long = Math.hypot(b[0] - a[0], b[1] - a[1]);
      const [nx, ny] = [(b[1] - a[1]) / long, (a[0] - b[0]) / long];
      const off = (port.x - a[0]) * nx + (port.y - a[1]) * ny;
      const along = ((port.x - a[0]) * -ny + (port.y - a[1]) * nx) / long;
      return Math.abs(off) < AT_RIM && along > 0 && along < 1 && nx * out[0] + ny * out[1] > 0.99;
    });
  });

/** Ground beside ports at the rim, with holes in it; it keeps off all other copper by its gap. */
export function launchesAt(
  ports: readonly BoardPort[],
  { gap, width, length: deep, hole }: Readonly<Record<'gap' | 'width' | 'length' | 'hole', number>>,
  others: readonly Ring[],
): { readonly copper: readonly Ring[]; readonly holes: Hole[] } {
  const pads: Ring[] = [];
  const wished: Hole[] = [];
  for (const port of ports) {
    const [ox, oy] = [Math.cos(port.angle), Math.sin(port.angle)];
    for (const side of [1, -1]) {
      const at = (inwards: number, aside: number): Point => [
        port.x - inwards * ox - side * aside * oy,
        port.y - inwards * oy + side * aside * ox,
      ];
      const near = port.width / 2 + gap;
      pads.push([at(0, near), at(0, near + width), at(deep, near + width), at(deep, near)]);
      const [from, to] = [RIM * hole, deep - hole];
      const count = Math.max(1, Math.floor((to - from) / (2 * hole) + 1 + 1e-9));
      for (let k = 0; k < count; k++) {
        const [x, y] = at(
          count === 1 ? (from + to) / 2 : from + ((to - from) * k) / (count - 1),
          near + width / 2,
        );
        wished.push({ x, y, diameter: hole });
      }
    }
  }
  if (pads.length === 0) return { copper: [], holes: [] };
  const { x0, x1, y0, y1 } = boxOf(pads.flat());
  const kept = others.flatMap((ring): Ring[] => {
    const box = boxOf(ring);
    const far = box.x0 > x1 + gap || box.x1 < x0 - gap || box.y0 > y1 + gap || box.y1 < y0 - gap;
    const wide = far || areaOf(ring) < 0 ? undefined : widened(ring, gap - ROUNDING);
    return wide ? [wide] : [];
  });
  const copper = outlinesIn(changed(changed([], pads), kept, true));
  const holes: Hole[] = [];
  for (const one of wished)
    // Grounds of neighbouring ports may run into one: its holes stand apart.
    if (
      copperAround(copper, [one.x, one.y]) > 0.75 * hole &&
      !holes.some((h) => Math.hypot(h.x - one.x, h.y - one.y) < 2 * hole - ROUNDING)
    )
      holes.push(one);
  return { copper, holes };
}

/** Holes along sides of the rim, joined by copper; none where other copper is too near. */
export function fenceAlong(
  board: Ring,
  sides: readonly EnclosureSide[],
  { hole, pitch, inset }: Readonly<Record<'hole' | 'pitch' | 'inset', number>>,
  others: readonly Ring[],
  clear: number,
): { readonly copper: Ring[]; readonly holes: Hole[] } {
  const copper: Ring[] = [];
  const holes: Hole[] = [];
  const radius = hole * (0.5 + COLLAR);
  const known = sidesOf(others, Math.max(clear, 1e-4));
  board.forEach((a, i) => {
    const b = board[(i + 1) % board.length];
    const long = Math.hypot(b[0] - a[0], b[1] - a[1]);
    const along: Point = [(b[0] - a[0]) / long, (b[1] - a[1]) / long];
    if (!sides.includes(sideOf([along[1], -along[0]])) || long <= 2 * inset) return;
    const count = Math.max(1, Math.floor((long - 2 * inset) / pitch + 1e-9));
    const own = Array.from({ length: count + 1 }, (_, k): Point => {
      const t = inset + ((long - 2 * inset) * k) / count;
      return [a[0] + t * along[0] - inset * along[1], a[1] + t * along[1] + inset * along[0]];
    });
    let run: Point[] = [];
    const close = () => {
      if (run.length > 0) copper.push(swept(run[0], run[run.length - 1], radius, CHORD));
      run = [];
    };
    for (const p of own) {
      const reach = radius + clear;
      const box = { x0: p[0] - reach, x1: p[0] + reach, y0: p[1] - reach, y1: p[1] + reach };
      if (known.near(box).some((s) => nearestBetween(p, p, s.a, s.b).distance < reach)) close();
      else {
        run.push(p);
        // Where two sides meet they have their corner in common.
        if (!holes.some((h) => Math.hypot(h.x - p[0], h.y - p[1]) < hole))
          holes.push({ x: p[0], y: p[1], diameter: hole });
      }
    }
    close();
  });
  return { copper, holes };
}
