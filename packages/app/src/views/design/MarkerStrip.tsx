import { memo, useState } from 'react';
import styled from 'styled-components';
import { levelById, levels, type Level } from '@ditch/core/levels';
import { decibels, degrees, entryOf, impedanceOf, interpolate, vswr, type SData } from '@ditch/core/results';
import { formatImpedance, formatNumber, formatQuantity, formatVswr } from '@ditch/core/units';
import { TextButton } from '../../controls/basics';
import { Menu } from '../../controls/Menu';
import { QuantityInput } from '../../controls/QuantityInput';
import { useHandler } from '../../controls/stable';
import { useDerived, useLive, type Live } from '../../live';
import { colour } from '../../theme';
import { moveMarker, removeMarker } from '../edits';
import type { Pictures } from './pictures';
import type { Source } from './plots';

const Strip = styled.div`
  max-height: 122px;
  padding-bottom: 6px;
  overflow: auto;
  border-top: 1px solid ${colour('rule')};
  contain: layout paint;
  table {
    width: 100%;
    table-layout: fixed;
    border-collapse: collapse;
    font-size: 12px;
  }
  th {
    color: ${colour('quiet')};
    font-size: 11px;
    font-weight: 400;
    text-align: right;
    height: 31px;
    padding: 1px 10px;
    white-space: nowrap;
  }
  td {
    padding: 0 10px;
    height: 27px;
    text-align: right;
    white-space: nowrap;
  }
  /* A number that changes is laid out by itself. */
  td > span {
    display: block;
    contain: strict;
    height: 27px;
    line-height: 27px;
  }
  @container work (max-width: 800px) {
    td,
    th {
      padding-inline: 5px;
    }
  }
  /* What is short leaves its room to magnitudes with angles, and impedances. */
  th:nth-child(5) {
    width: 8%;
  }
  th:last-child {
    width: 76px;
  }
  th:first-child,
  td:first-child {
    width: 150px;
    padding-left: 12px;
    text-align: left;
  }
`;
/** An entry of S that the markers can read. */
interface Curve {
  readonly id: string;
  readonly label: string;
  readonly level: Level;
  readonly data: SData;
  readonly i: number;
  readonly j: number;
}

/** What a wave into port 1 becomes, and the other ports' matches, of every level. */
function entriesOf(sources: readonly Source[]): Curve[] {
  return sources.flatMap(({ kind, data, name: source }) => {
    if (kind.role !== 'level') return [];
    const level = levelById[kind.level];
    const n = data.ports;
    const pairs = [
      ...Array.from({ length: n }, (_, i) => [i, 0]),
      ...Array.from({ length: n - 1 }, (_, i) => [i + 1, i + 1]),
      ...(n === 3 ? [[2, 1]] : []),
    ];
    return pairs.map(([i, j]) => {
      const name = `S${i + 1}${j + 1}`;
      const label = n === 1 ? source : `${name} ${source}`;
      return { id: `${level.id}-${name}`, label, level, data, i, j };
    });
  });
}

/** The markers in numbers, a row each; the rows read a curve and the same one at the level below it. */
export const MarkerStrip = memo(function MarkerStrip({ pictures }: { pictures: Pictures }) {
  const { scene, sources } = pictures;
  const [chosen, setChosen] = useState<string>();
  const read = useDerived(
    () => {
      const curves = entriesOf(sources.value);
      const curve = curves.find((c) => c.id === chosen) ?? curves[0];
      const lower = levels.findLast((l) => curve && l.fidelity < curve.level.fidelity) ?? levels[0];
      const below = curves.find((c) => c.level === lower && c.i === curve?.i && c.j === curve?.j);
      return { curves, curve, below, lower };
    },
    [sources, chosen],
    Object.is,
  );
  const head = useLive(
    useDerived(() => {
      const { curves, curve, lower } = read.value;
      return { label: curve?.label ?? '', below: lower.name, choice: curves.length > 1 };
    }, [read]),
  );
  const choices = useHandler(() =>
    read.peek().curves.map((c) => ({ id: c.id, label: c.label, run: () => setChosen(c.id) })),
  );
  const design = scene.peek().design.id;
  const { markers, mixed } = useLive(
    useDerived(
      () => ({
        markers: scene.value.design.markers.map(({ id, freq }) => ({
          id,
          text: freq,
          problem: scene.value.resolved.problems.find((p) => p.place.kind === 'marker' && p.place.id === id)
            ?.message,
        })),
        mixed: scene.value.design.pieces.some((p) => p.settings?.data),
      }),
      [scene],
    ),
  );
  return (
    <Strip role="region" aria-label="Markers" tabIndex={0}>
      <table>
        <Head label={head.label} below={head.below} choices={head.choice ? choices : undefined} />
        <tbody>
          {markers.map((marker) => (
            <tr key={marker.id}>
              <MarkerPlace design={design} {...marker} />
              <Cells id={marker.id} pictures={pictures} read={read} />
              <MarkerRemove design={design} id={marker.id} text={marker.text} />
            </tr>
          ))}
          {mixed && (
            <tr>
              <td colSpan={7} style={{ color: colour('quiet'), fontSize: 11 }}>
                The data this design works with is read between its samples; all else is computed at the
                markers.
              </td>
            </tr>
          )}
          {markers.length === 0 && (
            <tr>
              <td colSpan={7} style={{ color: colour('quiet') }}>
                No markers. Press M in the chart to set one at the cursor.
              </td>
            </tr>
          )}
        </tbody>
      </table>
    </Strip>
  );
});

const Head = memo(function Head({
  label,
  below,
  choices,
}: {
  label: string;
  below: string;
  choices?: () => { id: string; label: string; run: () => void }[];
}) {
  return (
    <thead>
      <tr>
        <th scope="col">
          Markers{' '}
          {choices && (
            <Menu
              label={<span style={{ fontSize: 11 }}>read {label} ▾</span>}
              ariaLabel="curve that the markers read"
              commands={choices}
            />
          )}
        </th>
        <th scope="col">dB</th>
        <th scope="col">dB, {below}</th>
        <th scope="col">magnitude ∠ angle</th>
        <th scope="col">VSWR</th>
        <th scope="col">impedance</th>
        <th scope="col" aria-label="remove" />
      </tr>
    </thead>
  );
});

const level = (x: { re: number; im: number } | undefined): string => {
  if (!x) return '\u2013';
  const dB = decibels(x.re, x.im);
  return dB < -200 ? 'below \u2212200' : formatNumber(Math.round(dB * 1e6) / 1e6);
};

/** What is read at a marker: a text for each column, or one for all. */
function readingsAt(
  at: number | undefined,
  { curve, below }: Read,
  waiting: boolean,
): readonly string[] | string {
  const inside =
    !waiting &&
    curve &&
    at !== undefined &&
    at >= curve.data.freq[0] &&
    at <= curve.data.freq[curve.data.freq.length - 1];
  if (at !== undefined && !inside && !waiting)
    return `${formatQuantity(at, 'frequency', { digits: 5 })} lies outside the sweep`;
  const s = inside ? interpolate(entryOf(curve.data, curve.i, curve.j), at) : undefined;
  const si = inside && below ? interpolate(entryOf(below.data, below.i, below.j), at) : undefined;
  const z = s && curve?.i === curve?.j ? impedanceOf(s.re, s.im, curve!.data.z0[curve!.i]) : undefined;
  return [
    level(s),
    level(si),
    s
      ? `${formatNumber(Math.hypot(s.re, s.im))} ∠ ${formatNumber(Math.round(degrees(s.re, s.im) * 1e3) / 1e3)}°`
      : '\u2013',
    s && z ? formatVswr(vswr(s.re, s.im)) : '\u2013',
    z ? formatImpedance(z) : '\u2013',
  ];
}

interface Read {
  readonly curve: Curve | undefined;
  readonly below: Curve | undefined;
}

interface CellsProps {
  readonly id: string;
  readonly pictures: Pictures;
  readonly read: Live<Read>;
}

const Cells = memo(function Cells({ id, pictures: { scene, waiting }, read }: CellsProps) {
  const texts = useLive(
    useDerived(
      () =>
        readingsAt(scene.value.resolved.markers.find((m) => m.id === id)?.freq, read.value, waiting.value),
      [id, scene, waiting, read],
    ),
  );
  return typeof texts === 'string' ? (
    <td colSpan={5} style={{ color: colour('quiet') }}>
      {texts}
    </td>
  ) : (
    texts.map((text, i) => (
      <td key={i}>
        <span>{text}</span>
      </td>
    ))
  );
});

interface MarkerProps {
  readonly design: string;
  readonly id: string;
  readonly text: string;
  readonly problem?: string;
}

const MarkerPlace = memo(function MarkerPlace({ design, id, text, problem }: MarkerProps) {
  return (
    <td>
      <QuantityInput
        label="marker frequency"
        kind="frequency"
        help="Where the marker stands: a frequency or an expression such as f0 or 2*f0. A marker at a plain frequency can also be dragged in the chart."
        value={text}
        error={problem}
        onChange={(next) => moveMarker(design, id, next)}
      />
    </td>
  );
});

const MarkerRemove = memo(function MarkerRemove({ design, id, text }: MarkerProps) {
  return (
    <td>
      <TextButton aria-label={`Remove marker ${text}`} onPress={() => removeMarker(design, id)}>
        remove
      </TextButton>
    </td>
  );
});
