import type { ArtworkPin, Point } from './contract';

/** A rectangle from (from, -w/2) to (to, w/2). */
export const bar = (from: number, to: number, width: number): Point[] => [
  { x: from, y: -width / 2 },
  { x: to, y: -width / 2 },
  { x: to, y: width / 2 },
  { x: from, y: width / 2 },
];

/** Distance in m between the pins of a mounted part whose size is not given: that of a common small chip. */
export const MOUNTED_SPAN = 1e-3;
/** The widest that a mounted part is drawn, m. */
export const MOST_MOUNTED = 0.8e-3;
/** Width of a mounted part, and of the pads that it stands on, by its span; m. */
export const mountedWidth = (span: number): number => Math.min(0.6 * span, MOST_MOUNTED);

/** A circle as a polygon. */
export const disc = (x: number, y: number, radius: number, sides = 32): Point[] =>
  Array.from({ length: sides }, (_, i) => {
    const a = (2 * Math.PI * i) / sides;
    return { x: x + radius * Math.cos(a), y: y + radius * Math.sin(a) };
  });

/** Pins of a joint without extent: all at the origin, looking the ways given (radians). */
export const pinsAt = (...angles: number[]): ArtworkPin[] => angles.map((angle) => ({ x: 0, y: 0, angle }));

/** The course of a line: a straight part, an arc, a straight part; lengths along the centre line. */
export interface Course {
  /** Straight before the arc, m. */
  readonly lead: number;
  /** Turn of the arc, radians, counter-clockwise; 0: no arc. */
  readonly turn: number;
  /** Length of the arc, m. */
  readonly arc: number;
  /** Whole length, m. */
  readonly length: number;
}

/** Place and direction at distance `s` along a course that starts at the origin towards +x. */
export function along({ lead, turn, arc }: Course, s: number): ArtworkPin {
  if (s <= lead || turn === 0) return { x: s, y: 0, angle: 0 };
  const radius = arc / turn;
  const t = Math.min(1, (s - lead) / arc) * turn;
  const x = lead + radius * Math.sin(t);
  const y = radius * (1 - Math.cos(t));
  const rest = Math.max(0, s - lead - arc);
  return { x: x + rest * Math.cos(t), y: y + rest * Math.sin(t), angle: t };
}

/**
 * Straight sides that stand for an arc: `usual` of them, or as many as keep the sides within `chord` of it.
 * @param radius of its outermost rim, m @param angle rad
 */
export const sidesOfArc = (
  radius: number,
  angle: number,
  usual: number,
  chord: number | undefined,
): number =>
  chord === undefined || !(chord < radius)
    ? usual
    : Math.max(usual, Math.ceil(Math.abs(angle) / (2 * Math.acos(1 - chord / radius))));

/** Pieces of a strip shorter than this are none, m. */
const LEAST = 1e-9;

/**
 * Convex pieces of a strip along a course from `from` to `to`; the width may change linearly from `w0` to `w1`.
 * @param chord how far straight sides may be off an arc, m; absent: as the screen and the solution take it
 */
export function strip(
  course: Course,
  from: number,
  to: number,
  w0: number,
  w1 = w0,
  chord?: number,
): Point[][] {
  if (!(to > from)) return [];
  const breaks = [from];
  if (course.turn !== 0) {
    const rim = Math.abs(course.arc / course.turn) + Math.max(w0, w1) / 2;
    const usual = Math.max(2, Math.ceil(Math.abs(course.turn) / (Math.PI / 36)));
    const steps = sidesOfArc(rim, course.turn, usual, chord);
    for (let i = 0; i <= steps; i++) {
      const s = course.lead + (course.arc * i) / steps;
      // Where the arc ends with the course, but for rounding, there is no piece behind it.
      if (s > from + LEAST && s < to - LEAST) breaks.push(s);
    }
  }
  breaks.push(to);
  const sides = breaks.map((s) => {
    const at = along(course, s);
    const half = (w0 + ((w1 - w0) * (s - from)) / (to - from)) / 2;
    const nx = -Math.sin(at.angle);
    const ny = Math.cos(at.angle);
    return [
      { x: at.x - half * nx, y: at.y - half * ny },
      { x: at.x + half * nx, y: at.y + half * ny },
    ];
  });
  return sides.slice(1).map((b, i) => [sides[i][0], b[0], b[1], sides[i][1]]);
}
