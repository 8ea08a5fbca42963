import { cx, type Complex } from '../numeric';
import { stubPlanes } from './stubs';

/** A section of lumped parts that cannot be had; `field` is what has to change. */
export class SectionError extends RangeError {
  constructor(
    readonly field: 'form' | 'q' | 'pad',
    message: string,
  ) {
    super(message);
  }
}

/** What a section would be without reactance of its load: coils in series and capacitors across, or the reverse. */
export type Pass = 'low' | 'high';

/** What links two parts: a length of line, radians at the design frequency, of impedance `z0` (ohm). */
export interface Link {
  readonly z0: number;
  readonly theta: number;
}

/**
 * The reactance that has to stand beside a resistance so that a line of angle `theta` shows the resistance `wanted`,
 * or the same of conductance and susceptance, all over the line's own: with t = tan(theta) the far side shows
 * r (1 + t^2) / (r^2 + (x + t)^2). Undefined where none does.
 */
function behindLink(r: number, wanted: number, theta: number, pass: Pass): number | undefined {
  const t = Math.tan(theta);
  const square = (r * (1 + t * t)) / wanted - r * r;
  if (square < -1e-12 * (1 + r * r)) return undefined;
  const root = Math.sqrt(Math.max(0, square));
  return (pass === 'low' ? root : -root) - t;
}

/**
 * What a part across makes of `z` so that its resistance is `wanted` (ohm) behind the link.
 * @returns the impedance in front of the link, ohm; undefined where the conductance is too large
 */
export function madeByShunt(z: Complex, wanted: number, pass: Pass, link: Link): Complex | undefined {
  const y = cx.div({ re: link.z0, im: 0 }, z);
  const b = behindLink(y.re, wanted / link.z0, link.theta, pass);
  return b === undefined ? undefined : cx.div({ re: link.z0, im: 0 }, { re: y.re, im: b });
}

/**
 * What a part in series makes of `z` so that its parallel resistance is `wanted` (ohm) behind the link.
 * @returns the impedance in front of the link, ohm; undefined where the resistance is too large
 */
export function madeBySeries(z: Complex, wanted: number, pass: Pass, link: Link): Complex | undefined {
  const x = behindLink(z.re / link.z0, link.z0 / wanted, link.theta, pass);
  return x === undefined ? undefined : { re: z.re, im: x * link.z0 };
}

/**
 * Angles in [0, pi), the shorter first, of the line of impedance `zLine` (ohm) between a load and the plane where its
 * resistance is that of `source` (ohm), so that a reactance in series alone completes the match: the planes of the
 * dual load, whose conductance is what the resistance is here.
 * @throws StubError where there is no such plane, or where nothing is left to match
 */
export const seriesPlanes = (load: Complex, zLine: number, source: number): number[] =>
  stubPlanes(cx.div({ re: zLine * zLine, im: 0 }, load), zLine, (zLine * zLine) / source);

/** Susceptance in siemens that a part across adds where it turns one impedance into another. */
export const shuntSusceptance = (from: Complex, to: Complex): number =>
  cx.sub(cx.div({ re: 1, im: 0 }, to), cx.div({ re: 1, im: 0 }, from)).im;

/**
 * Value of a part (F or H) at the angular frequency `w` that turns one impedance (ohm) into another; negative where it
 * takes a part of the other kind.
 */
export function partValue(
  way: 'series' | 'shunt',
  kind: 'capacitor' | 'inductor',
  from: Complex,
  to: Complex,
  w: number,
): number {
  // Ohm of what is in series, siemens of what is across.
  const added = way === 'series' ? to.im - from.im : shuntSusceptance(from, to);
  return (way === 'series') === (kind === 'inductor') ? added / w : -1 / (added * w);
}

/** A part of a section: a reactance in ohm at the design frequency, along the way or across it, or a link. */
export type Rung =
  | { readonly way: 'series' | 'shunt'; readonly x: number; readonly resistance: number }
  | { readonly way: 'link'; readonly link: Link };

/**
 * Reflection and loss of a section at its design frequency, walked from the load by voltage and current.
 * @param rungs from the load to the source
 * @returns reflection against the real `source`, and the share of the power taken that reaches the load
 */
export function sectionAtCentre(
  load: Complex,
  rungs: readonly Rung[],
  source: number,
): { readonly reflection: number; readonly efficiency: number } {
  let i: Complex = { re: 1, im: 0 };
  let v: Complex = load;
  for (const rung of rungs) {
    if (rung.way === 'link') {
      const { z0, theta } = rung.link;
      const [c, s] = [Math.cos(theta), Math.sin(theta)];
      [v, i] = [
        { re: v.re * c - i.im * z0 * s, im: v.im * c + i.re * z0 * s },
        { re: i.re * c - (v.im * s) / z0, im: i.im * c + (v.re * s) / z0 },
      ];
    } else if (rung.way === 'series') v = cx.add(v, cx.mul({ re: rung.resistance, im: rung.x }, i));
    else i = cx.add(i, cx.div(v, { re: rung.resistance, im: rung.x }));
  }
  const z = cx.div(v, i);
  const taken = v.re * i.re + v.im * i.im;
  return {
    reflection: cx.abs(cx.div(cx.sub(z, { re: source, im: 0 }), cx.add(z, { re: source, im: 0 }))),
    efficiency: load.re / taken,
  };
}
