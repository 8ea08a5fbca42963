import { memo, useState, type ReactNode, type RefObject } from 'react';
import { useHandler } from '../controls/stable';
import styled from 'styled-components';
import { writeCsv, type Column } from '@ditch/core/formats';
import { formatNumber } from '@ditch/core/units';
import { Quiet, TwoLines } from '../controls/basics';
import type { Command } from '../controls/command';
import { Menu } from '../controls/Menu';
import { download, fileName } from '../controls/files';
import { useDerived, useLive } from '../live';
import { colour } from '../theme';
import { savePng, saveSvg } from './export';

const Frame = styled.section`
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
  height: 100%;
`;
const Head = styled.header`
  display: flex;
  align-items: center;
  gap: 8px;
  height: 30px;
  padding: 0 4px 0 12px;
  h3 {
    font-size: 13px;
    font-weight: 600;
    white-space: nowrap;
  }
`;
const Beside = styled(TwoLines)`
  ${Quiet} {
    max-height: 28px;
    overflow: hidden;
    font-size: 11px;
    line-height: 1.2;
    overflow-wrap: anywhere;
  }
`;
const Body = styled.div`
  position: relative;
  flex: 1;
  min-height: 0;
`;
const Scroll = styled.div`
  position: absolute;
  inset: 0 12px 8px;
  overflow: auto;
  border: 1px solid ${colour('rule')};
  table {
    border-collapse: collapse;
    font-size: 12px;
    min-width: 100%;
  }
  th {
    position: sticky;
    top: 0;
    background: ${colour('raised')};
    font-weight: 600;
  }
  th,
  td {
    padding: 2px 10px;
    text-align: right;
    white-space: nowrap;
  }
  tr:nth-child(even) td {
    background: ${colour('page')};
  }
`;

/** Rows shown at most; the CSV file has them all. */
const ROWS = 600;

interface ChartFrameProps {
  readonly title: string;
  readonly note?: string;
  /** The same data as numbers, for the table and the CSV file; of live things it reads what they are now. */
  readonly columns: () => readonly Column[];
  readonly svg: RefObject<SVGSVGElement | null>;
  /** Commands of the view, put before the exports. */
  readonly commands?: () => readonly Command[];
  /** Stands in the head: what chooses between pictures. */
  readonly extra?: ReactNode;
  readonly children: ReactNode;
}

/** What every chart has around it: title, table view and exports. */
export function ChartFrame({ title, note, columns, svg, commands, extra, children }: ChartFrameProps) {
  const [asTable, setAsTable] = useState(false);
  const all = useHandler((): readonly Command[] => {
    const name = fileName(title);
    const drawn = (act: (element: SVGSVGElement) => void) => () => svg.current && act(svg.current);
    return [
      ...(commands?.() ?? []),
      { id: 'table', label: asTable ? 'Show as chart' : 'Show as table', run: () => setAsTable(!asTable) },
      {
        id: 'csv',
        label: 'Export CSV',
        note: 'numbers',
        run: () => download(`${name}.csv`, writeCsv(columns()), 'text/csv'),
      },
      {
        id: 'svg',
        label: 'Export SVG',
        note: 'drawing',
        disabled: asTable,
        run: drawn((s) => saveSvg(s, name)),
      },
      {
        id: 'png',
        label: 'Export PNG',
        note: 'picture',
        disabled: asTable,
        run: drawn((s) => void savePng(s, name)),
      },
    ];
  });
  return (
    <Frame aria-label={title}>
      <Top title={title} note={note} commands={all} extra={extra} />
      <Body>{asTable ? <NumberTable title={title} columns={columns} /> : children}</Body>
    </Frame>
  );
}

/** Drawn once, not with every new curve. */
const Top = memo(function Top({
  title,
  note,
  commands,
  extra,
}: {
  title: string;
  note?: string;
  commands: () => readonly Command[];
  extra?: ReactNode;
}) {
  return (
    <Head>
      {extra ?? <h3>{title}</h3>}
      <Beside>
        <span>
          <Quiet title={note}>{note}</Quiet>
        </span>
      </Beside>
      <Menu label="Chart" ariaLabel={`${title}: chart commands`} commands={commands} />
    </Head>
  );
});

const cell = (value: number | string): string => (typeof value === 'string' ? value : formatNumber(value, 6));

function NumberTable({ title, columns: read }: { title: string; columns: () => readonly Column[] }) {
  const columns = useLive(useDerived(read, [read], Object.is));
  const rows = Math.max(0, ...columns.map((c) => c.values.length));
  const step = Math.max(1, Math.ceil(rows / ROWS));
  const shown = Array.from({ length: Math.ceil(rows / step) }, (_, i) => i * step);
  return (
    <Scroll tabIndex={0} role="region" aria-label={`${title}, table`}>
      <table>
        <thead>
          <tr>
            {columns.map((c) => (
              <th key={c.name} scope="col">
                {c.name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {shown.map((k) => (
            <tr key={k}>
              {columns.map((c) => (
                <td key={c.name}>{cell(c.values[k])}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {step > 1 && (
        <Quiet>
          Every {step}th row; the CSV file has all {rows}.
        </Quiet>
      )}
    </Scroll>
  );
}
