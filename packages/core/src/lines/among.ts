import type { Substrate } from './contract';

/** Several values at one place. */
export type Row = readonly number[] | Float64Array;

/** Between which ends something lies. */
export type Ends = readonly [low: number, high: number];

/** Proportions of a board that static values depend on: permittivity or other, and lengths over the height. */
export type Proportions = readonly [number, number, number];

/** Where a board stands among those like it: proportions at which is solved, and what each counts. */
export interface Star {
  readonly nodes: readonly Proportions[];
  readonly weights: readonly number[];
}

/** Ranges narrower than this are none. */
const NARROW = 1e-9;

/**
 * Static values of one of many like boards, from few that are solved: along each proportion a parabola through both ends and
 * the middle of its range, and of every two of them a twist by one corner. What is left is of third order in how far a board is
 * from the middle one.
 * @param ends of each proportion
 * @param at what this board's are; beyond the ends the parabolas go on
 */
export function starOf(ends: readonly [Ends, Ends, Ends], at: Proportions): Star {
  // Infinite where there is no lid, which is no range.
  const varies = ends.map(([low, high]) => high - low > NARROW * Math.abs(high));
  const middle = ends.map(([low, high], i) => (varies[i] ? (low + high) / 2 : at[i]));
  const node = (...moved: readonly (readonly [axis: number, value: number])[]): Proportions => {
    const out: [number, number, number] = [middle[0], middle[1], middle[2]];
    for (const [axis, value] of moved) out[axis] = value;
    return out;
  };
  const nodes: Proportions[] = [node()];
  const weights = [1];
  /** Of each proportion that varies where the board lies between its ends, -1 to 1, and its node at the upper one. */
  const axes: { readonly axis: number; readonly t: number; readonly high: number; readonly upper: number }[] =
    [];
  ends.forEach(([low, high], axis) => {
    if (!varies[axis]) return;
    const t = (2 * at[axis] - low - high) / (high - low);
    nodes.push(node([axis, low]), node([axis, high]));
    weights.push((t * (t - 1)) / 2, (t * (t + 1)) / 2);
    weights[0] -= t * t;
    axes.push({ axis, t, high, upper: nodes.length - 1 });
  });
  axes.forEach((a, i) => {
    for (const b of axes.slice(i + 1)) {
      const twist = a.t * b.t;
      nodes.push(node([a.axis, a.high], [b.axis, b.high]));
      weights.push(twist);
      weights[0] += twist;
      weights[a.upper] -= twist;
      weights[b.upper] -= twist;
    }
  });
  return { nodes, weights };
}

/** Ends of a length over another, both between ends. */
const over = ([a, b]: Ends, [c, d]: Ends): Ends => [a / d, b / c];

/** Ends of permittivity, thickness and lid over the height of the boards that a board is one of; undefined of one by itself. */
export function proportionEnds(
  { among, er, height, thickness, cover, offCentre = 0 }: Substrate,
  between: boolean,
): readonly [Ends, Ends, Ends] | undefined {
  if (!among) return undefined;
  const h = among.height ?? [height, height];
  const tau = over(among.thickness ?? [thickness, thickness], h);
  return between
    ? [tau, over([offCentre, offCentre], h), [0, 0]]
    : [among.er ?? [er, er], tau, over([cover, cover], h)];
}

/**
 * What is solved for by proportions, for a board or for the many that it is one of.
 * @param between two planes, where permittivity does not matter
 * @param at what is solved at some proportions; it may be overwritten by the next
 */
export function atProportions(
  substrate: Substrate,
  between: boolean,
  at: (...proportions: Proportions) => Row,
): Row {
  const { er, height, thickness, cover, offCentre = 0 } = substrate;
  const own: Proportions = between
    ? [thickness / height, offCentre / height, 0]
    : [er, thickness / height, cover / height];
  const ends = proportionEnds(substrate, between);
  return ends ? summed(starOf(ends, own), (node) => at(...node)) : at(...own);
}

/** A sum of what is said at the nodes of a star. @param at what a node says; it may be overwritten by the next one */
export function summed({ nodes, weights }: Star, at: (node: Proportions) => Row): number[] {
  const out: number[] = [];
  nodes.forEach((node, k) => {
    const values = at(node);
    for (let i = 0; i < values.length; i++) out[i] = (out[i] ?? 0) + weights[k] * values[i];
  });
  return out;
}
