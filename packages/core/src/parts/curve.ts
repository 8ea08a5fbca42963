import { cascade, fromScattering, uniformLine, type Electrical } from '../electrical';
import { curved, curvedLine, heightOf, reachOf, storedIn } from '../junctions';
import { linePoint } from '../lines';
import { C0 } from '../numeric';
import type { ElectricalContext, PartFacts, ResolveContext, Turn } from './contract';
import { lineAt } from './junction';

/** A line that goes straight, curves and goes straight again; lengths of its centre line, m. */
interface CurvedCourse {
  readonly width: number;
  readonly radius: number;
  readonly arc: number;
  /** Straight before and behind the arc; less than nothing where the arc stands for what is taken off beside it. */
  readonly lead: number;
  readonly tail: number;
  readonly isLossless?: boolean;
  /** What turns beyond each end, to the same side as the arc. */
  readonly beyond?: readonly [readonly Turn[], readonly Turn[]];
}

/** A part in waves of the line, as `Curved` tells it, between straight pieces of which the first one is longer. */
interface TwoSided {
  phase: number;
  returned: number;
  readonly lost: [number, number];
  /** By how much longer, rad. */
  off: number;
}

const RIGHT = Math.PI / 2;

/**
 * By how much more a side arm and a curve beside it induce in one another than the two sides of a corner do, where the side arm is
 * as wide, and how far that reaches, in heights: by the field solution of tees of 0.67 and 1.27 mm on 0.508 mm.
 */
const BESIDE = { size: 1.3, reach: 2.2 } as const;

/** By which facts a line knows what turns beyond its pins: from where to where, by how much, and whether that is an arc. */
const BEYOND = ['turns1', 'turns2'] as const;

/** Turns as a fact has them: four numbers each. @param side 1 counts to the left as they do, -1 to the right */
const told = (turns: readonly Turn[], side: number): number[] =>
  turns.flatMap(({ from, to, angle, isArc }) => [from, to, side * angle, isArc ? 1 : 0]);

const read = (fact: PartFacts[string] | undefined): Turn[] =>
  typeof fact !== 'object'
    ? []
    : Array.from({ length: fact.length / 4 }, (_, i) => ({
        from: fact[4 * i],
        to: fact[4 * i + 1],
        angle: fact[4 * i + 2],
        isArc: fact[4 * i + 3] === 1,
      }));

const factsOf = (each: readonly (readonly number[])[]): PartFacts =>
  Object.fromEntries(BEYOND.flatMap((name, pin) => (each[pin].length > 0 ? [[name, each[pin]]] : [])));

/** Facts of a line that curves to the left (1) or to the right (-1): who walks away from its first pin walks against it. */
export const turnsBeyond = (turns: ResolveContext['turns'], side: number): PartFacts =>
  factsOf([told(turns(0), -side), told(turns(1), side)]);

/** The same of a tee: how the lines at its arms in line curve, towards the side arm, which stands to the left (1) or to the right. */
export const bowsBeside = (turns: ResolveContext['turns'], side: number): PartFacts =>
  factsOf(
    [0, 1].map((pin) =>
      told(
        turns(pin).filter((t) => t.isArc),
        pin === 0 ? -side : side,
      ),
    ),
  );

/** What both facts tell. */
export const turnsIn = (facts: PartFacts): [Turn[], Turn[]] => [read(facts.turns1), read(facts.turns2)];

/**
 * What a line with a corner of 1 rad at its beginning, and arcs further on to the same side, has less of inductance than its length
 * says, as a length of line, m: what makes the way shorter and what returns are both by that.
 * @param width of the line, m
 * @returns that by how far, m, the corner and the arcs know of one another
 */
function lessBy(
  turns: readonly Turn[],
  width: number,
  { medium, substrate, f0 }: ElectricalContext,
): (reach: number) => number {
  const height = heightOf(medium.id, substrate);
  const by = curved();
  const each = turns.flatMap(({ from, to, angle }) => {
    const radius = (to - from) / Math.abs(angle);
    const stored = storedIn('curve', medium.id, substrate, [width, radius]);
    if (!stored) return [];
    curvedLine(stored, width, radius, to - from, height)(f0, 0, by);
    const [shorter, returned] = by.beside;
    return [{ from, less: Math.sign(angle) * (shorter - returned) }];
  });
  return (reach) =>
    each.reduce((sum, { from, less }) => sum + less * Math.exp(-Math.max(0, from) / reach), 0);
}

/**
 * What curves beside a tee, as inductances in series with its arms, H: what a current induces in another one. Around a corner a
 * curve to the same side makes the way shorter, and along both arms in line one of them does so to the other. Between two of
 * three arms in each case: by the law of cosines a product of two currents is that of squares of three.
 * @param widths of the arms in line, and @param side of the side arm, m
 */
export function bowed(
  facts: PartFacts,
  widths: readonly [number, number],
  side: number,
  context: ElectricalContext,
): [number, number, number] | undefined {
  const turns = turnsIn(facts);
  if (turns.every((t) => t.length === 0)) return undefined;
  const height = heightOf(context.medium.id, context.substrate);
  const arms = turns.map((beyond, arm) => {
    const width = widths[arm];
    const { z0, eeff } = lineAt(context, width);
    const perMetre = (z0 * Math.sqrt(eeff)) / C0 / 2;
    const reach = reachOf(width, height);
    const less = lessBy(beyond, width, context);
    return {
      /** Around the corner to the side arm, for each rad of it. */
      around: BESIDE.size * Math.cbrt(side / width) * less(BESIDE.reach * height) * perMetre,
      /** In a corner of 1 rad at the beginning, from one of its sides to the other one. */
      induces: less(reach) * perMetre,
      angle: 2 * exposed(beyond, 0, reach),
    };
  });
  const around = arms.map((arm) => -RIGHT * arm.around);
  const along = -(arms[0].induces * arms[1].angle + arms[1].induces * arms[0].angle) / 2;
  const [a, b] = around;
  return [a - b + along, b - a + along, a + b - along];
}

/** How much of what turns beyond an end the arc has: what two arcs have of one another each of them has to its half. */
const exposed = (turns: readonly Turn[], straight: number, reach: number): number =>
  turns.reduce((sum, { from, to, angle, isArc }) => {
    const [near, far] = [from, to].map((at) => Math.exp(-Math.max(0, straight + at) / reach));
    const mean = to > from ? ((near - far) * reach) / (to - from) : near;
    return sum + (isArc ? 0.5 : 1) * angle * mean;
  }, 0);

/**
 * A line with an arc in it, which by the table counts as shorter and of less impedance than its centre line says; where no table
 * holds its width or the board, as long as that.
 */
export function withCurve(
  { width, radius, arc, lead, tail, isLossless = false, beyond = [[], []] }: CurvedCourse,
  context: ElectricalContext,
): Electrical {
  const { medium, substrate } = context;
  const section = context.section('strip', width);
  const point = linePoint();
  const points = [point];
  /** Writes the line at a frequency, and tells its loss, Np/m. */
  const read = (f: number): number => {
    if (isLossless) section.impedanceAt(f, points);
    else section.at(f, points);
    return isLossless ? 0 : point.alphaConductor + point.alphaDielectric;
  };
  const betaAt = (f: number) => ((2 * Math.PI * f) / C0) * Math.sqrt(point.eeff);
  const straight = (length: number) => {
    const k = (2 * Math.PI * length) / C0;
    return uniformLine((f, out) => {
      out.alpha = read(f) * length;
      out.z0 = point.z0;
      out.beta = k * f * Math.sqrt(point.eeff);
    });
  };
  const stored = arc > 0 ? storedIn('curve', medium.id, substrate, [width, radius]) : undefined;
  if (!stored) return straight(lead + arc + tail);
  const height = heightOf(medium.id, substrate);
  const at = curvedLine(stored, width, radius, arc, height);
  const by = curved();
  const references = [
    { re: 0, im: 0 },
    { re: 0, im: 0 },
  ];
  /** What is told by waves that come from both ends alike, and by opposite ones: it keeps power, or loses what is told. */
  const twoSided = (tell: (f: number, out: TwoSided) => void): Electrical => {
    const out: TwoSided = { phase: 0, returned: 0, lost: [0, 0], off: 0 };
    return fromScattering(2, references, (f, re, im) => {
      tell(f, out);
      references[0].re = references[1].re = point.z0;
      const { phase, returned, lost, off } = out;
      const [alike, opposite] = [Math.exp(-lost[0]), Math.exp(-lost[1])];
      const [ar, ai] = [alike * Math.cos(returned - phase), alike * Math.sin(returned - phase)];
      const [br, bi] = [-opposite * Math.cos(returned + phase), opposite * Math.sin(returned + phase)];
      re[1] = re[2] = (ar - br) / 2;
      im[1] = im[2] = (ai - bi) / 2;
      // What returns passes the straight piece on its side twice.
      const [sr, si] = [(ar + br) / 2, (ai + bi) / 2];
      const [c, s] = [Math.cos(off), Math.sin(off)];
      re[0] = sr * c + si * s;
      im[0] = si * c - sr * s;
      re[3] = sr * c - si * s;
      im[3] = si * c + sr * s;
    });
  };
  const arced = (before: number, behind: number) =>
    twoSided((f, out) => {
      const alpha = read(f) * (before + arc + behind);
      const beta = betaAt(f);
      at(f, beta, by);
      out.phase = by.phase + beta * (before + behind);
      out.returned = by.returned;
      out.off = beta * (before - behind);
      for (const mode of [0, 1] as const) out.lost[mode] = alpha + by.lost[mode];
    });
  const reach = reachOf(width, height);
  const exposures = [lead, tail].map((length, end) => exposed(beyond[end], length, reach));
  if (exposures.every((x) => x === 0)) return arced(lead, tail);
  /** What turns beside an end counts there. */
  const ended = (exposure: number) =>
    twoSided((f, out) => {
      read(f);
      const beta = betaAt(f);
      at(f, beta, by);
      out.phase = -beta * exposure * by.beside[0];
      out.returned = beta * exposure * by.beside[1];
    });
  return cascade([straight(lead), ended(exposures[0]), arced(0, 0), ended(exposures[1]), straight(tail)]);
}
