import {
  checkQuantity,
  DECIMAL,
  parseExpression,
  sameDimension,
  type Quantity,
  type Scope,
} from '../../units';
import { enclosureSides, type Design } from '../document';
import type { Place, PlotPlane, Problems, ResolvedDesign } from './contract';

/** A number, behind it a unit that says no more than its plot does. */
const LEVEL = new RegExp(`^\\s*([+-]?${DECIMAL})\\s*[A-Za-z%\u00B0\u03A9]*\\s*$`);

const number = (text: string): number | undefined => {
  const read = LEVEL.exec(text.replace(/\u2212/g, '-'));
  return read ? Number(read[1]) : undefined;
};

/** Works out what is shown and asked of a design: sweep, markers, goal, limits and planes of its plots, ranges of values, walls. */
export function readPlots(
  design: Design,
  scope: Scope,
  problems: Problems,
): Pick<ResolvedDesign, 'sweep' | 'markers' | 'limits' | 'ranges' | 'planes' | 'goal' | 'enclosure'> {
  const quantity = (
    place: Place,
    text: string,
    kind: 'frequency' | 'level' | 'impedance' | 'length',
    min: number,
  ): number | undefined => {
    try {
      return checkQuantity(parseExpression(text).evaluate(scope), { kind, min }).re;
    } catch (error) {
      problems.take(place, error);
      return undefined;
    }
  };
  const start = quantity({ kind: 'sweep', field: 'start' }, design.sweep.start, 'frequency', 0);
  const stop = quantity({ kind: 'sweep', field: 'stop' }, design.sweep.stop, 'frequency', 0);
  const { points } = design.sweep;
  let sweep: ResolvedDesign['sweep'];
  if (start !== undefined && stop !== undefined) {
    if (start >= stop) problems.say({ kind: 'sweep', field: 'stop' }, 'the sweep must stop above its start');
    else if (!Number.isInteger(points) || points < 2 || points > 20001)
      problems.say(
        { kind: 'sweep', field: 'points' },
        'the number of points must be a whole number from 2 to 20001',
      );
    else sweep = { start, stop, points };
  }
  const markers = design.markers.flatMap((m) => {
    const freq = quantity({ kind: 'marker', id: m.id }, m.freq, 'frequency', 0);
    return freq === undefined ? [] : [{ id: m.id, freq }];
  });
  const limits = (design.plots ?? []).flatMap((plot) =>
    (plot.limits ?? []).flatMap((limit) => {
      const place: Place = { kind: 'limit', id: limit.id };
      const from = quantity(place, limit.from, 'frequency', 0);
      const to = quantity(place, limit.to, 'frequency', 0);
      const read = (text: string, sound: (x: number) => boolean, words: string): number | undefined => {
        const x = number(text);
        if (x !== undefined && sound(x)) return x;
        problems.say(place, `a limit\u2019s ${words}`);
        return undefined;
      };
      const level = read(limit.level, () => true, 'level is a number in the unit of its plot');
      const tolerance = read(
        limit.tolerance ?? '0',
        (x) => x >= 0,
        'tolerance is a number in the unit of its plot, nothing below zero',
      );
      const weight = read(limit.weight ?? '1', (x) => x > 0, 'weight is a number above zero');
      if (from === undefined || to === undefined) return [];
      if (level === undefined || tolerance === undefined || weight === undefined) return [];
      return [
        {
          id: limit.id,
          side: limit.side,
          level,
          tolerance,
          weight,
          from: Math.min(from, to),
          to: Math.max(from, to),
          ...(limit.curves && { curves: limit.curves }),
        },
      ];
    }),
  );
  const ranges = new Map<string, { low: Quantity; high: Quantity }>();
  for (const { key, from, to } of design.ranges ?? []) {
    const place: Place = { kind: 'range', key };
    try {
      const [low, high] = [from, to].map((text) => parseExpression(text).evaluate(scope));
      if (!sameDimension(low.dimension, high.dimension))
        problems.say(place, `${from} and ${to} are not of one kind`);
      else if (!(low.re < high.re)) problems.say(place, 'a range ends above its beginning');
      else ranges.set(key, { low, high });
    } catch (error) {
      problems.take(place, error);
    }
  }
  const planes = (design.plots ?? []).flatMap((plot): PlotPlane[] => {
    if (plot.show !== 'smith' || (!plot.look && plot.reference === undefined)) return [];
    const place: Place = { kind: 'plane', id: plot.id };
    const reference =
      plot.reference === undefined ? undefined : quantity(place, plot.reference, 'impedance', 0);
    if (reference === 0) problems.say(place, 'the reference of a Smith chart must be above zero');
    const piece = design.pieces.find((p) => p.id === plot.look?.piece);
    // What looked into a piece that is gone looks from port 1; the review says so.
    const sound = piece && piece.kind !== 'port' && plot.look!.pin < piece.nodes.length;
    return [{ plot: plot.id, ...(sound ? { look: plot.look } : {}), ...(reference ? { reference } : {}) }];
  });
  const goal = quantity({ kind: 'goal' }, design.goal, 'level', 0) ?? 20;
  const typed = design.enclosure;
  const walls = enclosureSides.flatMap((side) => {
    const x = typed && quantity({ kind: 'enclosure', side }, typed[side], 'length', 0);
    return x === undefined ? [] : [[side, x] as const];
  });
  const enclosure =
    walls.length === enclosureSides.length
      ? (Object.fromEntries(walls) as ResolvedDesign['enclosure'])
      : undefined;
  return { sweep, markers, limits, ranges, planes, goal, ...(enclosure && { enclosure }) };
}
