import { checkQuantity, DECIMAL, parseExpression, type Scope } from '../../units';
import type { Design } from '../document';
import type { Place, PlotPlane, Problems, ResolvedDesign } from './contract';

/** A number, behind it a unit that says no more than its plot does. */
const LEVEL = new RegExp(`^\\s*([+-]?${DECIMAL})\\s*[A-Za-z%\u00B0\u03A9]*\\s*$`);

/** Works out what is shown of a design: sweep, markers, goal, limits and planes of its plots. */
export function readPlots(
  design: Design,
  scope: Scope,
  problems: Problems,
): Pick<ResolvedDesign, 'sweep' | 'markers' | 'limits' | 'planes' | 'goal'> {
  const quantity = (
    place: Place,
    text: string,
    kind: 'frequency' | 'level' | 'impedance',
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
      const level = LEVEL.exec(limit.level.replace(/\u2212/g, '-'));
      if (!level) problems.say(place, 'a limit\u2019s level is a number in the unit of its plot');
      if (from === undefined || to === undefined || !level) return [];
      return [
        {
          id: limit.id,
          side: limit.side,
          level: Number(level[1]),
          from: Math.min(from, to),
          to: Math.max(from, to),
          ...(limit.curves && { curves: limit.curves }),
        },
      ];
    }),
  );
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
  return { sweep, markers, limits, planes, goal };
}
