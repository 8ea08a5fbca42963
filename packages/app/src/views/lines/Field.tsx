import { useMemo, useState, type KeyboardEvent, type PointerEvent } from 'react';
import styled from 'styled-components';
import { media, type MediumId, type Substrate } from '@ditch/core/lines';
import type { SheetShapeId } from '@ditch/core/network';
import type { fieldSteps, SectionField, slotFieldSteps, Surface } from '@ditch/core/section';
import { formatNumber, formatQuantity } from '@ditch/core/units';
import { contourOf, gridPath, type GridPoint } from '../../charts/contour';
import { Segments } from '../../controls/basics';
import { useJob } from '../../queries';
import { colour } from '../../theme';
import type { Scenery } from './CrossSection';

/** Whose field is looked at: none, of the single line or of a pair's even mode, of its odd mode. */
export type FieldMode = 'none' | 'even' | 'odd';

const COLUMNS = 96;
const ROWS = 44;
/** Equipotentials per volt. */
const LINES = [0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9];
/** Strengths at which the shading deepens, over that of a plate capacitor of the height. */
const SHADES = [0.1, 0.2, 0.4, 0.8, 1.6, 3.2];
/** Highest that a ribbon of current gets, over its mean, and pixels of the mean. */
const MOST = 5;
const BAR = 4;

/** The field of a mode, solved when it is looked at. */
export function useField(
  shape: SheetShapeId,
  medium: MediumId,
  substrate: Substrate,
  dimensions: readonly number[] | undefined,
  mode: FieldMode,
  { half, above, below }: Scenery,
) {
  const shown = mode !== 'none' && dimensions !== undefined;
  const [w = 0, s = 0] = dimensions ?? [];
  const between = media[medium].grounds === 2;
  const { er, height, thickness, cover } = substrate;
  const reach = { x: half, y: above };
  const counts = { columns: COLUMNS, rows: ROWS };
  const request =
    shape === 'strip' || shape === 'pair'
      ? {
          strips: [
            shape === 'pair' ? { from: s / 2, to: s / 2 + w, thickness } : { from: 0, to: w / 2, thickness },
            shape === 'pair' && mode === 'odd' ? -1 : 1,
            { ground: below, cover: between ? above : cover },
            between ? { below: 1, above: 1 } : { below: er, above: 1 },
            reach,
            counts,
          ] satisfies Parameters<typeof fieldSteps>,
        }
      : {
          slots: [
            { width: w, slot: s, thickness },
            { height, grounded: shape === 'grounded', cover },
            er,
            reach,
            counts,
          ] satisfies Parameters<typeof slotFieldSteps>,
        };
  const answer = useJob('sectionField', shown ? request : undefined);
  return { data: shown ? answer.data : undefined, waits: shown && answer.isFetching };
}

/** The current along one face of the copper as a ribbon, its height the density. */
function ribbons(current: readonly Surface[], px: (x: number) => number, py: (y: number) => number): string {
  const faces = new Map<string, Surface[]>();
  for (const s of current) {
    const key = `${s.nx} ${s.ny}`;
    faces.set(key, [...(faces.get(key) ?? []), s]);
  }
  return [...faces.values()]
    .flatMap((face) => {
      const along = face[0].nx === 0 ? 'x' : 'y';
      const sorted = [...face].sort((a, b) => a[along] - b[along]);
      // A face ends where the copper does.
      const stretches: Surface[][] = [];
      for (const s of sorted) {
        const last = stretches.at(-1)?.at(-1);
        const goesOn = last && s[along] - last[along] < 1.5 * (s.half + last.half);
        if (goesOn) stretches.at(-1)!.push(s);
        else stretches.push([s]);
      }
      return stretches;
    })
    .map((stretch) => {
      const outer = stretch.map((s) => {
        const height = Math.min(MOST, Math.abs(s.density)) * BAR;
        return `${(px(s.x) + s.nx * height).toFixed(1)} ${(py(s.y) - s.ny * height).toFixed(1)}`;
      });
      const inner = [stretch[stretch.length - 1], stretch[0]].map(
        (s) => `${px(s.x).toFixed(1)} ${py(s.y).toFixed(1)}`,
      );
      return `M${[...outer, ...inner].join('L')}Z`;
    })
    .join('');
}

const Note = styled.div`
  position: absolute;
  z-index: 1;
  top: 6px;
  right: 12px;
  display: flex;
  gap: 10px;
  align-items: center;
  font-size: 11px;
  color: ${colour('quiet')};
`;

/** Which mode's field is drawn. */
export function FieldChoice({
  shape,
  mode,
  onMode,
  field,
}: {
  shape: SheetShapeId;
  mode: FieldMode;
  onMode: (mode: FieldMode) => void;
  field: { readonly data: SectionField | undefined; readonly waits: boolean };
}) {
  return (
    <Note>
      <span role="status">
        {mode === 'none'
          ? ''
          : field.waits
            ? 'solving the field …'
            : field.data
              ? 'lines: 0.1 V of 1 V · shade: field · ribbon: current'
              : ''}
      </span>
      <Segments
        label="Field"
        value={mode}
        choices={[
          { id: 'none', label: 'Copper' },
          ...(shape === 'pair'
            ? [
                { id: 'even', label: 'Even field' },
                { id: 'odd', label: 'Odd field' },
              ]
            : [{ id: 'even', label: 'Field' }]),
        ]}
        onChange={(id) => onMode(id as FieldMode)}
      />
    </Note>
  );
}

/** Equipotentials, strength and current of a mode, mirrored, with what they are under the pointer or the cursor. */
export function Field({
  field,
  scenery,
  px,
  py,
}: {
  field: SectionField;
  scenery: Scenery;
  px: (x: number) => number;
  py: (y: number) => number;
}) {
  const [cursor, setCursor] = useState<{ readonly x: number; readonly y: number }>();
  const { x, y, symmetry, potential, strength, current } = field;
  const { half, below, above } = scenery;
  const scale = px(1) - px(0);
  const centre = px(0);
  const drawn = useMemo(() => {
    const plate = 1 / (below + (scenery.ground ? 0 : above));
    const on = (axis: Float64Array, place: number) => {
      const i = Math.max(0, Math.min(axis.length - 2, Math.floor(place)));
      return axis[i] + (axis[i + 1] - axis[i]) * Math.max(0, Math.min(1, place - i));
    };
    const at = ([c, r]: GridPoint): [number, number] => [on(x, c) * scale, -on(y, r) * scale];
    const [volts, strengths] = [Array.from(potential), Array.from(strength)];
    return {
      lines: LINES.map((v) => ({ v, d: gridPath(contourOf(volts, x.length, y.length, v).lines, at) })),
      shades: SHADES.map((v) => gridPath(contourOf(strengths, x.length, y.length, v * plate).areas, at)),
      ribbon: ribbons(
        current,
        (v) => v * scale,
        (v) => -v * scale,
      ),
    };
  }, [x, y, potential, strength, current, below, above, scenery.ground, scale]);

  const cell = (axis: Float64Array, v: number) => {
    let i = 0;
    while (i < axis.length - 2 && axis[i + 1] < v) i++;
    return i;
  };
  const read = cursor && {
    at: cell(y, cursor.y) * x.length + cell(x, Math.abs(cursor.x)),
    sign: cursor.x < 0 ? symmetry : 1,
  };
  const words =
    cursor && read
      ? `${formatNumber((read.sign * Math.round(potential[read.at] * 1000)) / 1000, 3)} V · ${formatNumber(strength[read.at] / 1e3, 3)} V/mm at 1 V · x ${formatQuantity(cursor.x, 'length', { digits: 3 })}, y ${formatQuantity(cursor.y, 'length', { digits: 3 })}`
      : '';
  const place = (event: PointerEvent<SVGRectElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    setCursor({
      x: ((event.clientX - box.left) / box.width - 0.5) * 2 * half,
      y: above - ((event.clientY - box.top) / box.height) * (below + above),
    });
  };
  const step = (event: KeyboardEvent) => {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (!by) return;
    event.preventDefault();
    const size = event.shiftKey ? 0.005 : 0.03;
    const from = cursor ?? { x: 0, y: -below / 2 };
    setCursor({
      x: Math.max(-half, Math.min(half, from.x + by[0] * size * half)),
      y: Math.max(-below, Math.min(above, from.y + by[1] * size * (below + above))),
    });
  };
  const sides = [1, -1] as const;
  return (
    <g aria-label="field of the cross-section">
      <clipPath id="section-field">
        <rect x={px(-half)} y={py(above)} width={px(half) - px(-half)} height={py(-below) - py(above)} />
      </clipPath>
      <g clipPath="url(#section-field)">
        {sides.map((side) => (
          <g key={side} transform={`translate(${centre} ${py(0)}) scale(${side} 1)`}>
            {drawn.shades.map((d, i) => (
              <path key={i} d={d} fill={colour('water')} fillOpacity={0.09} />
            ))}
            {drawn.lines.map(({ v, d }) => (
              <path
                key={v}
                className="equipotential"
                d={d}
                fill="none"
                stroke={symmetry === -1 && side === -1 ? colour('trace4') : colour('waterText')}
                strokeWidth={v === 0.5 ? 1.4 : 0.8}
              />
            ))}
          </g>
        ))}
      </g>
      {sides.map((side) => (
        <path
          key={side}
          className="current"
          d={drawn.ribbon}
          transform={`translate(${centre} ${py(0)}) scale(${side} 1)`}
          fill={colour('copperHand')}
          fillOpacity={0.55}
        />
      ))}
      {cursor && (
        <>
          <circle cx={px(cursor.x)} cy={py(cursor.y)} r={3} fill="none" stroke={colour('ink')} />
          <text x={centre} y={py(above) - 12} textAnchor="middle" style={{ fill: colour('ink') }}>
            {words}
          </text>
        </>
      )}
      <rect
        x={px(-half)}
        y={py(above)}
        width={px(half) - px(-half)}
        height={py(-below) - py(above)}
        fill="transparent"
        tabIndex={0}
        role="application"
        aria-roledescription="field reader"
        aria-label={`field: ${words || 'arrow keys read it'}`}
        onPointerMove={place}
        onPointerLeave={() => setCursor(undefined)}
        onKeyDown={step}
      />
    </g>
  );
}
