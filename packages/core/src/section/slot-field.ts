import type { Steps } from '../numeric/steps';
import { gridOf, strengthOf, type SectionField, type Surface } from './field';
import { cuts, panelsAlong, sinc, type Panel } from './panels';
import { slotVoltages, type SlotSurroundings, type SlotVoltages } from './slots';

/** What lies on one side of the plane of the metal. */
interface Room {
  /** Potential of a plane that is at 1 V left of a step and at none right of it, at u left of the step and d off the plane, but for 1/2. */
  step(u: number, d: number): number;
  /** Antiderivative by u of the field that leaves the plane of such a step, taken where it is metal; V per metre over it. */
  leaving(u: number): number;
}

/** Air without end. */
const open: Room = {
  step: (u, d) => Math.atan(u / d) / Math.PI,
  leaving: (u) => Math.log(u) / Math.PI,
};

/** A layer that a plane at 0 V closes at `depth`: the map of a strip to a half plane. */
function closed(depth: number): Room {
  const c = Math.PI / (2 * depth);
  return {
    step: (u, d) => (d >= depth ? 0 : Math.atan(Math.tanh(c * u) / Math.tan(c * d)) / Math.PI),
    // ln sinh, which does not overflow.
    leaving: (u) => (c * u + Math.log1p(-Math.exp(-2 * c * u))) / Math.PI,
  };
}

/** A dielectric of a height with air below it: images in its far face, the nth of them weaker by the contrast. */
function slab(er: number, height: number): Pick<Room, 'step'> {
  const contrast = (er - 1) / (er + 1);
  const images = contrast < 1e-6 ? 0 : Math.ceil(Math.log(1e-4) / Math.log(contrast));
  return {
    step(u, d) {
      let sum = 0;
      let weight = 1;
      for (let n = 0; n <= images; n++) {
        sum += weight * open.step(u, d + 2 * n * height);
        if (contrast > 0) sum += weight * contrast * open.step(u, 2 * (n + 1) * height - d);
        weight *= -contrast;
      }
      return sum;
    },
  };
}

const GAUSS = 1 / Math.sqrt(3);
/** Pieces of a panel at most. */
const FINEST = 8;

/** Potential at x, `d` off the plane, of a slot's voltages and their mirror image. */
function potentialOf(panels: readonly Panel[], volts: Float64Array, room: Pick<Room, 'step'>) {
  return (x: number, d: number): number => {
    let sum = 0;
    panels.forEach((p, i) => {
      // A step blurs over its distance: what is wider is taken in pieces.
      const pieces = Math.min(FINEST, Math.max(1, Math.ceil((2 * p.a) / d)));
      const half = p.a / pieces;
      for (let k = 0; k < pieces; k++)
        for (const side of [-GAUSS, GAUSS]) {
          const at = p.x - p.a + (2 * k + 1 + side) * half;
          sum += (volts[i] / (2 * pieces)) * (room.step(at - x, d) + room.step(at + x, d));
        }
    });
    return sum;
  };
}

/** Potential on the plane itself. */
function onPlane(panels: readonly Panel[], volts: Float64Array) {
  return (x: number): number => {
    let left = 1;
    for (let i = 0; i < panels.length; i++) {
      const p = panels[i];
      const share = Math.max(0, Math.min(1, (x - (p.x - p.a)) / (2 * p.a)));
      left -= share * volts[i];
      if (share < 1) break;
    }
    return left;
  };
}

/** Modes of a slot with a depth that are drawn. */
const MODES = 120;

/** The field between the side walls of a slot with a depth: in its modes, from what its two faces have. */
function inSlot({ panels, lower, upper }: SlotVoltages, from: number, slot: number, t: number) {
  const turn = Math.PI / slot;
  const spectrum = (volts: Float64Array) =>
    Float64Array.from({ length: MODES }, (_, m) => {
      const k = (m + 1) * turn;
      return panels.reduce(
        (sum, p, i) => sum + (2 / slot) * volts[i] * Math.cos(k * (p.x - from)) * sinc(k * p.a),
        0,
      );
    });
  const [low, high] = [spectrum(lower), spectrum(upper)];
  const amplitude = (m: number, y: number): number => {
    const k = (m + 1) * turn;
    const whole = 1 - Math.exp(-2 * k * t);
    const part = (d: number) => (Math.exp(-k * (t - d)) * (1 - Math.exp(-2 * k * d))) / whole;
    return low[m] * part(t - y) + high[m] * part(y);
  };
  return {
    potential(x: number, y: number): number {
      let sum = 1 - (x - from) / slot;
      for (let m = 0; m < MODES; m++) {
        const k = (m + 1) * turn;
        sum -= (amplitude(m, y) * Math.sin(k * (x - from))) / k;
      }
      return sum;
    },
    /** Field on a side wall, V/m: of the strip, or of the ground. */
    wall(y: number, ground: boolean): number {
      let sum = 1 / slot;
      for (let m = 0; m < MODES; m++) sum += amplitude(m, y) * (ground && m % 2 === 0 ? -1 : 1);
      return sum;
    },
  };
}

/**
 * The field of a coplanar line at 1 V between strip and side grounds, from the field in its slots: beside them by the
 * potential on the plane of the metal, in a thick slot by its modes. For looking at: within some thousandths of a volt.
 * @param reach how far to the right, and how far up where no plane ends it, m
 * @param counts columns, and rows of each of the layers
 */
export function* slotFieldSteps(
  { width, slot, thickness: t }: { width: number; slot: number; thickness: number },
  around: SlotSurroundings,
  er: number,
  reach: { readonly x: number; readonly y: number },
  counts: { readonly columns: number; readonly rows: number },
): Steps<SectionField> {
  const { height, grounded, cover } = around;
  const [from, to] = [width / 2, width / 2 + slot];
  const volts = slotVoltages(width, slot, t, around, er);
  const { panels, lower, upper } = volts;
  const roomAbove = cover === Infinity ? open : closed(cover - t);
  const below = potentialOf(panels, lower, grounded ? closed(height) : slab(er, height));
  const above = potentialOf(panels, upper, roomAbove);
  const [floor, ceiling] = [onPlane(panels, lower), onPlane(panels, upper)];
  const within = t > 0 ? inSlot(volts, from, slot, t) : undefined;
  const { x, y } = gridOf({ ...counts, reach, ground: height, thickness: t, cover });
  const potential = new Float64Array(x.length * y.length);
  for (let r = 0; r < y.length; r++) {
    for (let i = 0; i < x.length; i++) {
      const metal = x[i] <= from ? 1 : x[i] >= to ? 0 : undefined;
      potential[r * x.length + i] =
        y[r] < 0
          ? below(x[i], -y[r])
          : y[r] > t
            ? above(x[i], y[r] - t)
            : (metal ??
              (y[r] === 0 ? floor(x[i]) : y[r] === t ? ceiling(x[i]) : within!.potential(x[i], y[r])));
    }
    yield (r + 1) / y.length;
  }
  return {
    symmetry: 1,
    x,
    y,
    potential,
    strength: strengthOf(x, y, potential, 1),
    current: currentOf(width, slot, t, around, reach.x),
  };
}

/** Pieces of a face that the current is shown on. */
const PIECES = 24;

/** Where the current of a fast wave flows: as the charge in vacuum does. */
function currentOf(width: number, slot: number, t: number, around: SlotSurroundings, end: number): Surface[] {
  const [from, to] = [width / 2, width / 2 + slot];
  const volts = slotVoltages(width, slot, t, around, 1);
  const { panels } = volts;
  const rooms = {
    up: around.cover === Infinity ? open : closed(around.cover - t),
    down: around.grounded ? closed(around.height) : open,
  };
  const leaving = (room: Room, own: Float64Array, x: number): number =>
    panels.reduce((sum, p, i) => {
      const mean = (u: number) => (room.leaving(u + p.a) - room.leaving(u - p.a)) / (2 * p.a);
      return sum + own[i] * (mean(p.x + x) + (x < p.x ? mean(p.x - x) : -mean(x - p.x)));
    }, 0);
  const edge = PIECES ** -2;
  const faces = [
    ...panelsAlong(1, 0, cuts(0, from, PIECES, 0, edge)),
    ...(end > to ? panelsAlong(1, 0, cuts(to, end, PIECES, edge, 0)) : []),
  ];
  const flat = (ny: 1 | -1) =>
    faces.map((p): Surface => {
      const [room, own] = ny === 1 ? [rooms.up, volts.upper] : [rooms.down, volts.lower];
      return { x: p.x, y: ny === 1 ? t : 0, half: p.a, nx: 0, ny, density: leaving(room, own, p.x) };
    });
  const within = t > 0 ? inSlot(volts, from, slot, t) : undefined;
  const walls = within
    ? panelsAlong(-1, from, cuts(0, t, PIECES / 2, edge, edge)).flatMap((p): Surface[] => [
        { x: from, y: p.y, half: p.a, nx: 1, ny: 0, density: within.wall(p.y, false) },
        { x: to, y: p.y, half: p.a, nx: -1, ny: 0, density: -within.wall(p.y, true) },
      ])
    : [];
  const all = [...flat(1), ...flat(-1), ...walls];
  const strip = all.filter((s) => s.x <= from);
  const length = strip.reduce((sum, s) => sum + 2 * s.half, 0);
  const mean = strip.reduce((sum, s) => sum + 2 * s.half * s.density, 0) / length;
  return all.map((s) => ({ ...s, density: s.density / mean }));
}
