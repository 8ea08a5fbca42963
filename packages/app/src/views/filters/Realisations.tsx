import { useQueries } from '@tanstack/react-query';
import { useEffect, useMemo, useState } from 'react';
import styled from 'styled-components';
import { realisationsOf, type MadeFilter, type Realisation } from '@ditch/core/candidates';
import { synthesiseWidth, UnreachableImpedance, type MediumId } from '@ditch/core/lines';
import type { Design, Project } from '@ditch/core/network';
import { resolveStack, type Stack } from '@ditch/core/stack';
import type { FilterSpecification } from '@ditch/core/theory';
import { formatNumber, formatQuantity } from '@ditch/core/units';
import { run } from '../../bridge/bridge';
import type { Trace } from '../../charts/types';
import { Button, Quiet, SectionTitle, TextButton } from '../../controls/basics';
import { colour } from '../../theme';
import { LayoutPicture } from '../design/Picture';
import { withStack } from '../edits';

const Panel = styled.section`
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  min-height: 0;
  border-top: 1px solid ${colour('rule')};
  background: ${colour('raised')};
`;
const Head = styled.div`
  display: flex;
  align-items: baseline;
  gap: 12px;
  padding: 8px 14px 2px;
`;
const Scroll = styled.div`
  overflow: auto;
  padding: 0 14px 10px;
  table {
    width: 100%;
    border-collapse: collapse;
    font-size: 12px;
    font-variant-numeric: tabular-nums;
  }
  thead th {
    position: sticky;
    top: 0;
    z-index: 1;
    background: ${colour('raised')};
  }
  th {
    padding: 2px 6px;
    color: ${colour('quiet')};
    font-size: 11px;
    font-weight: 400;
    text-align: right;
    white-space: nowrap;
  }
  td {
    padding: 4px 6px;
    border-top: 1px solid ${colour('rule')};
    text-align: right;
    white-space: nowrap;
  }
  th:nth-child(-n + 2),
  td:nth-child(-n + 2) {
    text-align: left;
  }
  td:nth-child(2) {
    white-space: normal;
  }
  tr[data-kept='true'] td:nth-child(4) {
    color: ${colour('waterText')};
    font-weight: 600;
  }
`;
const Copper = styled.div`
  width: 132px;
  height: 54px;
`;

type By = 'missed' | 'area' | 'narrowest' | 'gap' | 'vias' | 'again' | 'loss';
interface Column {
  readonly id: By;
  readonly name: string;
  readonly about: string;
  /** Smaller is better. */
  readonly score: (made: MadeFilter) => number;
  readonly text: (made: MadeFilter) => string;
}
const length = (x: number): string => formatQuantity(x, 'length', { digits: 3 });
const dB = (x: number): string => `${formatNumber(Math.round(x * 100) / 100, 3)}\u2009dB`;
const columns: readonly Column[] = [
  {
    id: 'missed',
    name: 'as copper',
    about: 'worst miss of the specification as modelled, retuned',
    score: (m) => m.missed.modelled,
    text: (m) => (m.missed.modelled <= 0.005 ? 'kept' : `misses ${dB(m.missed.modelled)}`),
  },
  {
    id: 'area',
    name: 'size',
    about: 'width and height of the copper',
    score: (m) => m.size[0] * m.size[1],
    text: ({ size: [w, h] }) => `${formatNumber(w * 1e3, 3)} \u00D7 ${formatNumber(h * 1e3, 3)} mm`,
  },
  {
    id: 'narrowest',
    name: 'narrowest',
    about: 'narrowest line',
    score: (m) => -m.narrowest,
    text: (m) => length(m.narrowest),
  },
  {
    id: 'gap',
    name: 'gap',
    about: 'narrowest gap of coupled lines',
    score: (m) => -(m.gap ?? Infinity),
    text: (m) => (m.gap === undefined ? '\u2013' : length(m.gap)),
  },
  { id: 'vias', name: 'vias', about: 'vias to ground', score: (m) => m.vias, text: (m) => String(m.vias) },
  {
    id: 'again',
    name: 'passes again',
    about: 'where it passes again above its band',
    score: (m) => -(m.again ?? Infinity),
    text: (m) =>
      m.again === undefined ? 'not in sight' : formatQuantity(m.again, 'frequency', { digits: 3 }),
  },
  {
    id: 'loss',
    name: 'loss',
    about: 'least loss in the pass band, as modelled',
    score: (m) => m.loss,
    text: (m) => dB(m.loss),
  },
];

/** Everything a filter can be made of on a board, weighed; chosen ones lie over the response, any becomes a design. */
export function Realisations({
  project,
  stack,
  medium,
  spec,
  z0,
  onOver,
  onMake,
}: {
  project: Project;
  stack: Stack;
  medium: MediumId;
  spec: FilterSpecification | undefined;
  z0: string;
  /** Curves laid over the response. */
  onOver: (traces: readonly Omit<Trace, 'colour'>[]) => void;
  onMake: (design: Design, label: string) => void;
}) {
  const [by, setBy] = useState<By>('missed');
  const [over, setOver] = useState<readonly string[]>([]);
  // What is computed depends on the board alone, not on what else is in the project.
  const board = useMemo(() => {
    const own = withStack(project, stack);
    return {
      project: { ...own.project, designs: [], data: [] },
      stack: { ...stack, id: own.id },
      highest: highestOn(stack, medium),
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [project.stacks, stack, medium]);
  const ways = useMemo(
    () => (spec ? realisationsOf(spec, z0, board.highest) : []),
    [spec, z0, board.highest],
  );
  const found = useQueries({
    queries: ways.map((way) => ({
      queryKey: ['realise', spec, way, board.stack, medium],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        run('realise', { project: board.project, stack: board.stack, medium, spec: spec!, way }, { signal }),
    })),
    combine: (list) => list.map(({ data }) => data),
  });
  const rows = useMemo(() => {
    const column = columns.find((c) => c.id === by)!;
    const score = (r: Realisation) => (r.made ? column.score(r.made) : Infinity);
    return found.filter((r) => r !== undefined).sort((a, b) => score(a) - score(b));
  }, [found, by]);
  const waiting = ways.length - rows.length;
  const laid = useMemo(
    () =>
      rows.flatMap((r) =>
        r.made && over.includes(r.key)
          ? [
              {
                id: r.key,
                label: r.label,
                name: r.label,
                kind: { role: 'overlay' as const },
                x: r.made.freq,
                y: r.made.level.modelled,
              },
            ]
          : [],
      ),
    [rows, over],
  );
  useEffect(() => onOver(laid), [laid, onOver]);

  return (
    <Panel aria-label="Realisations">
      <Head>
        <SectionTitle>What it can be made of</SectionTitle>
        <Quiet role="status">
          {!spec
            ? 'complete the specification first'
            : waiting > 0
              ? `making and retuning, ${rows.length} of ${ways.length}`
              : 'each with the least order, retuned; tick to lay it over the response'}
        </Quiet>
      </Head>
      <Scroll tabIndex={0} role="group" aria-label="list of realisations">
        <table>
          <thead>
            <tr>
              <th scope="col">copper</th>
              <th scope="col">lay over</th>
              <th scope="col">order</th>
              {columns.map(({ id, name, about }) => (
                <th key={id} scope="col" title={about} aria-sort={by === id ? 'ascending' : 'none'}>
                  <TextButton aria-label={`sort by ${name}: ${about}`} onPress={() => setBy(id)}>
                    {by === id ? <b>{name}</b> : name}
                  </TextButton>
                </th>
              ))}
              <th scope="col">
                <span aria-hidden="true"> </span>
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <Row
                key={row.key}
                row={row}
                laid={over.includes(row.key)}
                onLay={(on) => setOver(on ? [...over, row.key] : over.filter((k) => k !== row.key))}
                onMake={onMake}
              />
            ))}
          </tbody>
        </table>
      </Scroll>
    </Panel>
  );
}

/** Impedance of the narrowest line that the board's shop etches, ohm. */
function highestOn(stack: Stack, medium: MediumId): number {
  const { value } = resolveStack(stack, medium);
  if (!value) return 100;
  for (let z = 140; z > 60; z -= 2)
    try {
      if (synthesiseWidth(medium, value.substrate, z, 1e9) >= value.minWidth) return z;
    } catch (error) {
      if (!(error instanceof UnreachableImpedance)) throw error;
    }
  return 60;
}

function Row({
  row,
  laid,
  onLay,
  onMake,
}: {
  row: Realisation;
  laid: boolean;
  onLay: (on: boolean) => void;
  onMake: (design: Design, label: string) => void;
}) {
  const { made, label, problem } = row;
  return (
    <tr data-kept={made ? made.missed.modelled <= 0.005 : undefined}>
      <td>
        <Copper>{made && <LayoutPicture layout={made.layout} />}</Copper>
      </td>
      <td>
        <label>
          <input
            type="checkbox"
            aria-label={`lay ${label} over the response`}
            disabled={!made}
            checked={laid}
            onChange={(event) => onLay(event.target.checked)}
          />{' '}
          {label}
        </label>
        {made && made.remarks > 0 && (
          <Quiet>
            {' '}
            · {made.remarks} remark{made.remarks > 1 ? 's' : ''} of the review
          </Quiet>
        )}
      </td>
      {made ? (
        <>
          <td>{made.order}</td>
          {columns.map(({ id, text }) => (
            <td key={id}>{text(made)}</td>
          ))}
          <td>
            <Button aria-label={`make ${label}`} onPress={() => onMake(made.design, made.design.name)}>
              Make
            </Button>
          </td>
        </>
      ) : (
        <td
          colSpan={columns.length + 2}
          style={{ textAlign: 'left', whiteSpace: 'normal', color: colour('quiet') }}
        >
          {problem}
        </td>
      )}
    </tr>
  );
}
