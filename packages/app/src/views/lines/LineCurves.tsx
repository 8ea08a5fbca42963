import { useMemo, useRef, useState, type ReactNode } from 'react';
import { media, readPair, synthesiseWidth, UnreachableImpedance } from '@ditch/core/lines';
import type { ResolvedSheet, SheetShapeId } from '@ditch/core/network';
import { formatNumber, formatQuantity, lengthUnit } from '@ditch/core/units';
import { ChartFrame } from '../../charts/ChartFrame';
import { PlainRectChart, type Axis } from '../../charts/RectChart';
import type { Guide, Trace } from '../../charts/types';
import { Select } from '../../controls/Select';
import { useJob } from '../../queries';
import { endMerge } from '../../store/session';
import { PairMap } from './PairMap';

/** One picture to read a line from. */
interface Picture {
  readonly id: string;
  readonly title: string;
  /** The dimension along the axis, by its place, and its name. */
  readonly vary: number;
  readonly face: string;
  /** Range over the height, for one ground. */
  readonly range: readonly [number, number];
  readonly unit: 'impedance' | 'coupling';
}

const WIDTH: readonly [number, number] = [0.05, 12];
const APART: readonly [number, number] = [0.03, 6];
const pictures: Readonly<Record<SheetShapeId, readonly (Picture | { id: 'map'; title: string })[]>> = {
  strip: [
    { id: 'width', title: 'Impedance over width', vary: 0, face: 'width', range: WIDTH, unit: 'impedance' },
  ],
  pair: [
    { id: 'coupling', title: 'Coupling over gap', vary: 1, face: 'gap', range: APART, unit: 'coupling' },
    { id: 'modes', title: 'Even and odd over gap', vary: 1, face: 'gap', range: APART, unit: 'impedance' },
    {
      id: 'width',
      title: 'Even and odd over width',
      vary: 0,
      face: 'width',
      range: WIDTH,
      unit: 'impedance',
    },
    { id: 'map', title: 'Map of width and gap' },
  ],
  coplanar: [
    { id: 'slot', title: 'Impedance over slot', vary: 1, face: 'slot', range: APART, unit: 'impedance' },
    { id: 'width', title: 'Impedance over width', vary: 0, face: 'width', range: WIDTH, unit: 'impedance' },
  ],
  grounded: [
    { id: 'slot', title: 'Impedance over slot', vary: 1, face: 'slot', range: APART, unit: 'impedance' },
    { id: 'width', title: 'Impedance over width', vary: 0, face: 'width', range: WIDTH, unit: 'impedance' },
  ],
};

const STANDARD = [25, 35.36, 50, 70.71, 75, 100];
const POINTS = { 1: 181, 2: 61 } as const;

/** The curves to read widths, gaps and slots from, with the present line on them. */
export function LineCurves({
  resolved,
  onDimension,
  onPair,
}: {
  resolved: ResolvedSheet;
  /** A dimension is chosen on a curve. */
  onDimension: (face: string, text: string) => void;
  /** Width and gap are chosen on the map. */
  onPair: (width: string, gap: string) => void;
}) {
  const { shape, medium, freq, dimensions, analysis } = resolved;
  const substrate = resolved.stack?.substrate;
  const list = pictures[shape.id];
  const [chosen, setChosen] = useState('');
  const picture = list.find((p) => p.id === chosen) ?? list[0];
  const choice =
    list.length > 1 ? (
      <Select
        label="Picture"
        value={picture.id}
        choices={list.map((p) => ({ id: p.id, label: p.title }))}
        onChange={setChosen}
      />
    ) : undefined;
  const board = useMemo(
    () => (substrate && freq !== undefined ? { medium, substrate, freq } : undefined),
    [medium, substrate, freq],
  );
  if ('vary' in picture)
    return (
      <Curve
        key={`${shape.id}-${picture.id}`}
        picture={picture}
        choice={choice}
        resolved={resolved}
        onDimension={onDimension}
      />
    );
  return (
    <PairMap
      board={board}
      dimensions={dimensions as readonly [number, number] | undefined}
      analysis={analysis}
      choice={choice}
      onPair={onPair}
    />
  );
}

const length = (x: number): string => formatQuantity(x, 'length', { digits: 4, typed: true });

function Curve({
  picture,
  choice,
  resolved,
  onDimension,
}: {
  picture: Picture;
  choice: ReactNode;
  resolved: ResolvedSheet;
  onDimension: (face: string, text: string) => void;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const { shape, medium, freq, dimensions, analysis } = resolved;
  const substrate = resolved.stack?.substrate;
  const { vary, range, unit, face } = picture;
  const grounds = media[medium].grounds;
  // What does not move along the curve; of a single strip nothing is left.
  const others = dimensions?.map((d, i) => (i === vary ? substrate!.height : d));
  const fixed = shape.id === 'strip' && substrate ? [substrate.height] : others;
  const curve = useJob(
    'sectionCurve',
    substrate && freq !== undefined && fixed
      ? {
          shape: shape.id,
          board: { medium, substrate, freq },
          dimensions: fixed,
          vary,
          from: substrate.height * range[0],
          to: (substrate.height * range[1]) / grounds,
          points: shape.id === 'strip' ? POINTS[1] : POINTS[2],
        }
      : undefined,
  );
  const { data } = curve;
  const traces = useMemo((): Trace[] => {
    if (!data || data.modes.length !== (shape.id === 'pair' ? 2 : 1)) return [];
    const trace = (id: string, label: string, colour: Trace['colour'], y: Float64Array): Trace => ({
      id,
      label,
      colour,
      kind: { role: 'level', level: 'modelled' },
      x: data.x,
      y,
    });
    if (data.modes.length === 1) return [trace('z0', 'impedance', 'trace2', data.modes[0].z0)];
    const [even, odd] = data.modes;
    if (unit === 'coupling')
      return [
        trace(
          'coupling',
          'coupling',
          'trace3',
          even.z0.map((e, i) => -readPair(e, odd.z0[i]).couplingDb),
        ),
      ];
    return [trace('ze', 'even', 'trace2', even.z0), trace('zo', 'odd', 'trace3', odd.z0)];
  }, [data, unit, shape.id]);
  const guides = useMemo((): Guide[] => {
    if (!substrate || freq === undefined || shape.id !== 'strip') return [];
    return STANDARD.flatMap((z) => {
      try {
        const w = synthesiseWidth(medium, substrate, z, freq);
        return [
          {
            y: z,
            label: `${formatNumber(z, 3)} \u03A9 \u00B7 ${formatQuantity(w, 'length', { digits: 3 })}`,
          },
        ];
      } catch (error) {
        if (error instanceof UnreachableImpedance) return [];
        throw error;
      }
    });
  }, [medium, substrate, freq, shape.id]);
  const top = traces.reduce((a, t) => Math.max(a, t.y[0], t.y[t.y.length - 1]), 0);
  const y = useMemo((): Axis => {
    if (unit === 'coupling')
      return { label: 'dB', range: [-40, 0], format: (v) => `${formatNumber(v, 3)} dB` };
    return {
      label: '\u03A9',
      ...(top > 0 ? { range: [0, Math.ceil((top * 1.04) / 20) * 20] as const } : {}),
      format: (z) => formatQuantity(z, 'impedance'),
    };
  }, [unit, top]);
  const here = dimensions?.[vary];
  const said = (): string => {
    if (!analysis || here === undefined) return '';
    const [first, second] = analysis.modes;
    const at = formatQuantity(here, 'length');
    if (!second) return `${formatQuantity(first.z0, 'impedance')} at ${at}`;
    return unit === 'coupling'
      ? `${formatNumber(-readPair(first.z0, second.z0).couplingDb, 3)} dB at ${at}`
      : `${formatNumber(first.z0, 3)} / ${formatQuantity(second.z0, 'impedance', { digits: 3 })} at ${at}`;
  };
  const beside =
    shape.id === 'strip' || !dimensions
      ? ''
      : `${vary === 0 ? (shape.id === 'pair' ? 'gap' : 'slot') : 'width'} ${formatQuantity(dimensions[1 - vary], 'length', { digits: 3 })}, `;
  return (
    <ChartFrame
      title={picture.title}
      note={
        freq === undefined
          ? ''
          : `${beside}${shape.media.length > 1 ? `${media[medium].name.toLowerCase()} ` : ''}at ${formatQuantity(freq, 'frequency')}; drag the mark to choose a ${face}`
      }
      extra={choice}
      svg={svg}
      columns={() =>
        data
          ? [
              { name: `${face}_m`, values: data.x },
              ...data.modes.flatMap((m, i) => {
                const of = data.modes.length > 1 ? ['even_', 'odd_'][i] : '';
                return [
                  { name: `${of}impedance_ohm`, values: m.z0 },
                  { name: `${of}effective_permittivity`, values: m.eeff },
                ];
              }),
            ]
          : []
      }
    >
      <PlainRectChart
        label={unit === 'coupling' ? `coupling in dB over ${face}` : `impedance in ohm over ${face}`}
        svg={svg}
        traces={traces}
        guides={guides}
        x={{
          label: `${face} in ${lengthUnit().unit}`,
          scale: 1 / lengthUnit().size,
          log: true,
          format: (w) => formatQuantity(w, 'length'),
        }}
        y={y}
        markers={here === undefined || !analysis ? [] : [{ id: 'here', label: said(), x: here }]}
        onMarkerEnd={endMerge}
        onMarkerMove={(_id, w) => onDimension(face, length(w))}
        waiting={substrate === undefined || freq === undefined}
      />
    </ChartFrame>
  );
}
