import { nice } from 'd3-array';
import { intended, levelById, type LevelId } from '@ditch/core/levels';
import { dataOf, type DataBlock, type Design, type Plot } from '@ditch/core/network';
import {
  excess,
  measureOf,
  plotCurves,
  rolesOf,
  usualPlots,
  concerns,
  type FormulaValues,
  type LimitLine,
  type PlotCurve,
  type Roles,
} from '@ditch/core/plots';
import { ConversionError, entryOf, renormalise, type SData } from '@ditch/core/results';
import { QuantityError } from '@ditch/core/units';
import type { SmithTrace } from '../../charts/SmithChart';
import { countedLevel, isOf, type Kind, type Trace } from '../../charts/types';
import type { ColourName } from '../../theme';
import { perData } from './perData';

/** Colours of the quantities; a level never changes the colour, only the stroke. */
export const quantityColours: readonly ColourName[] = [
  'trace1',
  'trace2',
  'trace3',
  'trace4',
  'trace5',
  'trace6',
];

/** One response to be drawn: a level's, data beside it, or the influence of what is pointed at. */
export interface Source {
  readonly id: string;
  readonly name: string;
  readonly kind: Kind;
  readonly data: SData;
}

const fidelityOf = ({ kind }: Source): number =>
  kind.role === 'level' && !kind.past ? levelById[kind.level].fidelity : -1;

/** A level's response. */
export interface LevelData {
  readonly level: LevelId;
  readonly data: SData | undefined;
  /** Of an earlier state. */
  readonly past?: boolean;
}

const sourceOf = (level: LevelId, data: SData, past = false): Source => ({
  id: level,
  name: levelById[level].name + (past ? ', as it was' : ''),
  kind: { role: 'level', level, ...(past && { past }) },
  data,
});

const atReferences = perData(renormalise, (z0) => JSON.stringify(z0));

/** Everything to be drawn, the level that counts first. */
export function sourcesOf(
  answers: readonly LevelData[],
  influence: SData | undefined,
  overlays: readonly DataBlock[],
): Source[] {
  const out = answers
    .flatMap(({ level, data, past }) => (data ? [sourceOf(level, data, past)] : []))
    .sort((a, b) => fidelityOf(b) - fidelityOf(a));
  const first = out[0]?.data;
  if (influence)
    out.push({ id: 'influence', name: 'influence', kind: { role: 'influence' }, data: influence });
  for (const block of overlays) {
    const own = dataOf(block);
    // Imported data is compared at the references of the design's own ports.
    const z0 = first && own.z0.map((z, i) => first.z0[Math.min(i, first.ports - 1)] ?? z);
    const same = z0?.every((z, i) => z.re === own.z0[i].re && z.im === own.z0[i].im);
    out.push({
      id: block.id,
      name: block.name,
      kind: { role: 'overlay' },
      data: z0 && !same ? atReferences(own, z0) : own,
    });
  }
  return out;
}

export const rolesFrom = (sources: readonly Source[], f0: number | undefined): Roles => {
  // What a port is for is what it is meant for.
  const from = sources.find((s) => isOf(s.kind, intended.id)) ?? sources[0];
  return from && f0 !== undefined ? rolesOf(from.data, f0) : { ports: 1, outputs: [], isolated: [] };
};

/** What a design shows: its own arrangement, or what suits its ports. */
export const plotsOf = (design: Design, roles: Roles): readonly Plot[] =>
  design.plots ?? usualPlots(roles).map((show) => ({ id: `usual-${show}`, show }));

export interface Drawn {
  readonly title: string;
  readonly unit: string;
  readonly ceiling?: number;
  readonly traces: readonly Trace[];
  /** Why something could not be drawn, in words. */
  readonly problem?: string;
}

/** The curves of plots that no formula makes; formulas hang on named values too. */
const measured = perData(
  (data, show: string, roles: Roles) => plotCurves({ show }, data, roles),
  (show, roles) => JSON.stringify([show, roles]),
);

/** The curves of a plot from every source, each quantity in its own colour. */
export function drawPlot(
  plot: Plot,
  sources: readonly Source[],
  roles: Roles,
  values?: FormulaValues,
): Drawn {
  const measure = measureOf(plot.show);
  let problem: string | undefined;
  let unit = measure?.unit ?? '';
  const from = (data: SData): readonly PlotCurve[] => {
    try {
      const read = measure ? measured(data, plot.show, roles) : plotCurves(plot, data, roles, values);
      unit ||= read.unit;
      return read.curves;
    } catch (error) {
      if (!(error instanceof QuantityError || error instanceof ConversionError)) throw error;
      problem = error.message;
      return [];
    }
  };
  const counted = countedLevel(sources);
  const shown = sources.find((s) => isOf(s.kind, counted)) ?? sources[0];
  const colours = new Map<string, ColourName>();
  let beside = 3;
  const traces = sources.flatMap((source) => {
    const curves = from(source.data);
    return curves.map((curve): Trace => {
      if (source.kind.role !== 'overlay' && !colours.has(curve.id))
        colours.set(curve.id, quantityColours[colours.size % quantityColours.length]);
      const own = source.kind.role === 'overlay';
      const label = own ? (curves.length > 1 ? `${curve.label} ${source.name}` : source.name) : curve.label;
      return {
        id: `${source.id}-${curve.id}`,
        curve: curve.id,
        label: source === shown || own ? label : `${label} ${source.name}`,
        name: own && curves.length === 1 ? source.name : `${curve.label} ${source.name}`,
        unlabelled: source !== shown && !own,
        colour: own ? quantityColours[beside++ % quantityColours.length] : colours.get(curve.id)!,
        kind: source.kind,
        x: source.data.freq,
        y: curve.y,
      };
    });
  });
  return {
    title: measure?.name ?? (plot.show === 'formula' ? 'Formulas' : plot.show),
    unit,
    ceiling: measure?.ceiling,
    traces,
    problem,
  };
}

/** The part of the vertical axis that says something. */
export function axisRange({ unit, ceiling, traces }: Drawn): [number, number] | undefined {
  let low = Infinity;
  let high = -Infinity;
  for (const t of traces)
    for (let k = 0; k < t.y.length; k++) {
      const y = t.y[k];
      if (!Number.isFinite(y)) continue;
      low = Math.min(low, y);
      high = Math.max(high, y);
    }
  if (!(high >= low)) return undefined;
  if (ceiling !== undefined)
    return [
      Math.max(-60, Math.floor(Math.min(low, -20) / 10) * 10),
      Math.max(ceiling, high > ceiling + 0.01 ? high : ceiling),
    ];
  if (unit === 'dB') {
    low = Math.max(low, -60);
    high = Math.min(high, 60);
  }
  // A magnitude is read against nothing.
  const floor = (unit === '1' || unit === '%') && low >= 0 ? 0 : undefined;
  const pad = Math.max(
    (high - (floor ?? low)) * 0.08,
    unit === 'deg' ? 1 : Math.min(0.05, 0.1 * Math.abs(high) || 0.05),
  );
  // Round ends: the axis stands still while a value is tuned, and jumps only when the curves leave it.
  return nice(floor ?? low - pad, high + pad, 6);
}

const reflectionOf = perData(
  (data) => entryOf(data, 0, 0),
  () => '',
);

/** Reflections of the ports for the Smith chart; only port 1's where there are many. */
export function smithTraces(sources: readonly Source[]): SmithTrace[] {
  return sources.map((source) => {
    const entry = reflectionOf(source.data);
    return {
      id: `${source.id}-S11`,
      label: source.kind.role === 'overlay' ? source.name : `S11 ${source.name}`,
      colour: source.kind.role === 'overlay' ? 'trace2' : 'trace1',
      kind: source.kind,
      freq: entry.freq,
      re: entry.re,
      im: entry.im,
      z0: source.data.z0[0],
    };
  });
}

/**
 * How far the curves miss a plot's limits, in the plot's unit: above zero where one is broken, at most zero where all are
 * kept, undefined where no limit meets a curve. The truest level counts.
 */
export function missed(
  traces: readonly Trace[],
  limits: readonly LimitLine[],
  unit: string,
): number | undefined {
  const counted = countedLevel(traces);
  let worst: number | undefined;
  for (const limit of limits)
    for (const t of traces) {
      const here =
        isOf(t.kind, counted) && concerns(limit, t.curve ?? '') ? excess(t, limit, unit) : undefined;
      if (here) worst = Math.max(worst ?? -Infinity, here.over);
    }
  return worst;
}
