import { useMemo, useRef, useState } from 'react';
import styled from 'styled-components';
import { curveReadings, measureOf } from '@ditch/core/plots';
import { alone, type Design, type Piece, type Project } from '@ditch/core/network';
import { parts, propertiesOf } from '@ditch/core/parts';
import { boardSpreads } from '@ditch/core/stack';
import type { Centred, Corner } from '@ditch/core/studies';
import { kindOf, parseExpression, formatNumber, formatQuantity, type QuantityKind } from '@ditch/core/units';
import { run } from '../../bridge/bridge';
import { ChartFrame } from '../../charts/ChartFrame';
import { FREQUENCY, PlainRectChart, type Axis } from '../../charts/RectChart';
import type { Between, Trace } from '../../charts/types';
import { PrimaryButton, Quiet, SectionTitle, TextButton } from '../../controls/basics';
import { HelpLine } from '../../controls/help';
import { ErrorText, QuantityInput } from '../../controls/QuantityInput';
import { Select } from '../../controls/Select';
import { editDesign, say } from '../../store/session';
import { colour, type ColourName } from '../../theme';
import { axisRange } from '../design/plots';
import { setPieceSpread, setStackSpread, setValueSpread } from '../edits';
import { Empty } from '../Empty';
import { useResolved } from '../hooks';
import { Side } from '../side';
import { SHARES, useBands } from './bands';
import { Histogram } from './Histogram';
import { Fields, Note, Page, rectangular, Scroll, Work, type StudyProps } from './layout';
import { useSpread, type Sampled } from './useSpread';

const Rows = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) 112px;
  align-items: center;
  gap: 0 8px;
  font-size: 12px;
  > p {
    grid-column: 1 / -1;
  }
  > span {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;
const Verdict = styled.div`
  display: flex;
  align-items: baseline;
  gap: 10px;
  b {
    white-space: nowrap;
    font-size: 22px;
    font-weight: 650;
  }
`;
const Causes = styled.ul`
  display: grid;
  gap: 3px;
  font-size: 12px;
  li {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 90px 44px;
    align-items: center;
    gap: 8px;
  }
  i {
    display: block;
    height: 8px;
    border-radius: 2px;
    background: ${colour('water')};
  }
  span:last-child {
    text-align: right;
  }
`;
const Actions = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 12px;
`;

const WITHIN = [
  { id: '0.05', label: '\u00B15 %' },
  { id: '0.03', label: '\u00B13 %' },
  { id: '0.02', label: '\u00B12 %' },
  { id: '0.01', label: '\u00B11 %' },
];

const percent = (x: number, digits = 3): string => `${formatNumber(100 * x, digits)} %`;

/** A value that may spread, with where that is said. */
interface Row {
  readonly key: string;
  readonly label: string;
  readonly kind: QuantityKind;
  readonly text: string;
  readonly change: (text: string) => void;
}

function isPlain(text: string): boolean {
  try {
    return parseExpression(text).literal;
  } catch {
    return false;
  }
}

/** Everything that may spread: the board, the named values that are numbers, what is mounted. */
function rowsOf(project: Project, design: Design, resolved: ReturnType<typeof useResolved>): Row[] {
  const stack = project.stacks.find((s) => s.id === design.stack);
  const board = stack
    ? boardSpreads.map(({ id, label }): Row => ({
        key: `board:${id}`,
        label,
        kind: id === 'er' ? 'number' : 'length',
        text: stack.spread?.[id] ?? '',
        change: (text) => setStackSpread(stack.id, id, text),
      }))
    : [];
  const values = design.values.flatMap((v): Row[] => {
    const q = resolved.values.get(v.name);
    const kind = q && kindOf(q.dimension);
    if (v.name === 'f0' || !kind || q.im !== 0) return [];
    // What follows from others comes out as they do.
    if (!isPlain(v.value) && !v.spread) return [];
    return [
      {
        key: `value:${v.name}`,
        label: v.note ? `${v.name}, ${v.note}` : v.name,
        kind,
        text: v.spread ?? '',
        change: (text) => setValueSpread(design.id, v.name, text),
      },
    ];
  });
  const mounted = design.pieces.flatMap((piece: Piece): Row[] => {
    const definition = parts.get(piece.kind);
    if (!definition || definition.group !== 'mounted') return [];
    return propertiesOf(definition, piece.settings)
      .flatMap((p) => p.faces)
      .filter((f) => f.side === 'electrical' && piece.held[f.name] !== undefined)
      .map((f) => ({
        key: `piece:${piece.id}:${f.name}`,
        label: `${piece.name}, ${f.label.toLowerCase()}`,
        kind: f.rule.kind,
        text: piece.marks?.spread?.[f.name] ?? '',
        change: (text) => setPieceSpread(design.id, piece, f.name, text),
      }));
  });
  return [...board, ...values, ...mounted];
}

const HELP =
  'Plus and minus what it comes out as, such as 5% or 20 um; a normal distribution of which that is three standard deviations, or alike between the ends with :uniform. Empty: exact.';

/** What becomes of a design as it is made, again and again. */
export function SpreadStudy({ project, design, choice }: StudyProps) {
  const resolved = useResolved(project, design);
  const [within, setWithin] = useState('0.02');
  const [seed, setSeed] = useState(1);
  const spreading = useSpread(project, design, Number(within), seed);
  const { sampled, progress, problem, past } = spreading;
  const rows = rowsOf(project, design, resolved);
  const any = rows.some((r) => r.text.trim() !== '');
  const limited = design.plots?.some((p) => p.limits?.length) ?? false;
  const general = problem && !rows.some((r) => r.key === problem.at) ? problem.text : undefined;
  return (
    <Page>
      <Side as="aside" aria-label="Spread">
        <Scroll>
          {choice}
          <Note>
            The copper stays what is drawn for the board it was designed for; the board comes out otherwise,
            and etching moves all edges together.
          </Note>
          <SectionTitle>Plus and minus</SectionTitle>
          <Rows>
            {rows.map((row) => (
              <RowEditor key={row.key} row={row} error={problem?.at === row.key ? problem.text : undefined} />
            ))}
          </Rows>
          <Fields>
            <span>Until within</span>
            <Select
              label="until the yield is known within"
              value={within}
              choices={WITHIN}
              onChange={setWithin}
            />
            <span>Seed</span>
            <Actions>
              <Quiet>{seed}</Quiet>
              <TextButton onPress={() => setSeed(seed + 1)}>another</TextButton>
            </Actions>
          </Fields>
          <Actions>
            {progress === undefined ? (
              <PrimaryButton isDisabled={!any} onPress={spreading.start}>
                {past ? 'Sample again' : 'Sample'}
              </PrimaryButton>
            ) : (
              <PrimaryButton onPress={spreading.stop}>{Math.round(100 * progress)} % · stop</PrimaryButton>
            )}
            {!any && <Quiet>Nothing spreads yet.</Quiet>}
          </Actions>
          {general !== undefined && <ErrorText role="alert">{general}</ErrorText>}
          {sampled && <Outcome sampled={sampled} past={past} />}
          {limited && any && <Further project={project} design={design} seed={seed} />}
        </Scroll>
        <HelpLine idle="The same seed draws the same samples on every machine." />
      </Side>
      {sampled && sampled.varied.length > 0 ? (
        <Pictures
          design={design}
          sampled={sampled}
          past={past}
          f0={resolved.f0 ?? 0}
          limits={resolved.limits}
        />
      ) : (
        <Empty title="No samples yet">
          {any
            ? limited
              ? 'Sample takes the design through the shop again and again, until its yield is known as well as asked.'
              : 'No plot of this design has limits, so there is no yield to tell; Sample shows how far the curves spread. Limits are set from a plot\u2019s menu.'
            : 'Say beside plus and minus what something comes out as.'}
        </Empty>
      )}
    </Page>
  );
}

function RowEditor({ row, error }: { row: Row; error: string | undefined }) {
  const id = `${row.key}-error`;
  return (
    <>
      <span title={row.label}>{row.label}</span>
      <QuantityInput
        label={`tolerance of ${row.label}`}
        help={HELP}
        value={row.text}
        placeholder="exact"
        error={error}
        errorElsewhere={id}
        onChange={row.change}
      />
      {error !== undefined && <ErrorText id={id}>{error}</ErrorText>}
    </>
  );
}

function Outcome({ sampled, past }: { sampled: Sampled; past: boolean }) {
  const { told, causes, varied, hasLimits, count } = sampled;
  const ranked = causes
    ? varied.map((v, i) => ({ label: v.label, share: causes[i] })).sort((a, b) => b.share - a.share)
    : [];
  return (
    <section aria-label="Yield" style={{ opacity: past ? 0.6 : 1 }}>
      {hasLimits ? (
        <>
          <SectionTitle>Yield{past ? ', of an earlier state' : ''}</SectionTitle>
          <Verdict>
            <b>{percent(told.yield)}</b>
            <Quiet>
              {percent(told.low)} to {percent(told.high)} with 95 % confidence
            </Quiet>
          </Verdict>
          <Note>
            {told.pass} of {count} samples keep every limit.
          </Note>
          {ranked.some((r) => r.share > 0) && (
            <>
              <SectionTitle style={{ marginTop: 6 }}>What costs the most</SectionTitle>
              <Causes>
                {ranked.map(({ label, share }) => (
                  <li key={label}>
                    <span>{label}</span>
                    <span>
                      <i style={{ width: `${Math.max(1, 100 * share)}%` }} />
                    </span>
                    <span>{percent(share, 2)}</span>
                  </li>
                ))}
              </Causes>
            </>
          )}
        </>
      ) : (
        <Note>{count} samples; without limits there is no yield.</Note>
      )}
    </section>
  );
}

/** The worst corner, and the way to a higher yield. */
function Further({ project, design, seed }: { project: Project; design: Design; seed: number }) {
  const [corner, setCorner] = useState<Corner>();
  const [centred, setCentred] = useState<{ readonly of: Design; readonly found: Centred }>();
  const [progress, setProgress] = useState<number>();
  const abort = useRef<AbortController>(undefined);
  const working = async (work: (signal: AbortSignal) => Promise<void>) => {
    abort.current?.abort();
    const own = new AbortController();
    abort.current = own;
    setProgress(0);
    try {
      await work(own.signal);
    } catch (error) {
      if (!own.signal.aborted) say(error instanceof Error ? error.message : String(error));
    } finally {
      if (abort.current === own) {
        abort.current = undefined;
        setProgress(undefined);
      }
    }
  };
  const own = { project: alone(project, design), design };
  const look = () =>
    working(async (signal) => {
      const found = await run('corner', own, { signal, onProgress: setProgress });
      if ('problem' in found) say(found.problem);
      else setCorner(found.value);
    });
  const centre = () =>
    working(async (signal) => {
      const found = await run('centre', { ...own, seed }, { signal, onProgress: setProgress });
      if ('problem' in found) say(found.problem);
      else setCentred({ of: design, found: found.value });
    });
  const take = () => {
    if (!centred) return;
    const { values, pieces } = centred.found.design;
    editDesign(design.id, 'centre', (d) => ({ ...d, values, pieces }));
    setCentred(undefined);
  };
  const dB = (x: number) => `${formatNumber(Math.abs(x), 3)} dB`;
  const kept = (x: number) =>
    x <= 0 ? `keeps its limits with ${dB(x)} to spare` : `misses a limit by ${dB(x)}`;
  return (
    <section aria-label="Corners and centre">
      <SectionTitle>Corners and centre</SectionTitle>
      <Actions>
        {progress === undefined ? (
          <>
            <TextButton onPress={() => void look()}>worst corner</TextButton>
            <TextButton onPress={() => void centre()}>centre the design</TextButton>
          </>
        ) : (
          <TextButton onPress={() => abort.current?.abort()}>{Math.round(100 * progress)} %, stop</TextButton>
        )}
      </Actions>
      {corner && (
        <Note role="status">
          The worst corner {kept(corner.miss)}:{' '}
          {corner.varied
            .map((v, i) =>
              v.key === 'board:etch'
                ? `${v.label} ${corner.ends[i] > 0 ? '+' : '\u2212'}${formatQuantity(v.half, v.kind, { digits: 3 })}`
                : `${v.label} ${formatQuantity(v.nominal + corner.ends[i] * v.half, v.kind, { digits: 4 })}`,
            )
            .join(', ')}
          .
        </Note>
      )}
      {centred &&
        (centred.found.moved.length === 0 ? (
          <Note role="status">Nothing higher was found; the design stands where the yield is highest.</Note>
        ) : (
          <>
            <Note role="status">
              Centred: yield {percent(centred.found.before.yield)} → {percent(centred.found.after.yield)}; as
              it is meant it {kept(centred.found.meantAfter)}, before it{' '}
              {kept(centred.found.meantBefore)
                .replace(/^keeps/, 'kept')
                .replace(/^misses/, 'missed')}
              .
            </Note>
            <Actions>
              <TextButton isDisabled={centred.of !== design} onPress={take}>
                take it
              </TextButton>
              <TextButton onPress={() => setCentred(undefined)}>leave it</TextButton>
            </Actions>
          </>
        ))}
    </section>
  );
}

const COLOURS: readonly ColourName[] = ['trace3', 'trace2', 'trace4', 'trace5', 'trace6', 'trace1'];

function Pictures({
  design,
  sampled,
  past,
  f0,
  limits,
}: {
  design: Design;
  sampled: Sampled;
  past: boolean;
  f0: number;
  limits: ReturnType<typeof useResolved>['limits'];
}) {
  const upper = useRef<SVGSVGElement>(null);
  const lower = useRef<SVGSVGElement>(null);
  const [plotId, setPlotId] = useState<string>();
  const plot = sampled.plots.find((p) => p.plot === plotId) ?? sampled.plots[0];
  const bands = useBands(sampled, plot?.plot);
  const [measured, setMeasured] = useState('miss');
  const meant = rectangular(design.plots ?? []).find((p) => p.id === plot?.plot);
  const show = meant?.show ?? plot?.plot.replace(/^usual-/, '') ?? '';
  const title = measureOf(show)?.name ?? meant?.formulas?.join(', ') ?? show;
  const { freq } = sampled;
  const points = freq.length;
  /** The samples of a curve, one after the other. */
  const rows = (curve: string): Float32Array[] => {
    const c = plot.curves.findIndex((own) => own.id === curve);
    return plot.parts.flatMap((part) =>
      Array.from({ length: part.length / (plot.curves.length * points) }, (_, k) => {
        const begin = (k * plot.curves.length + c) * points;
        return part.subarray(begin, begin + points);
      }),
    );
  };
  const worst = useMemo(() => {
    if (!sampled.hasLimits) return undefined;
    let at = 0;
    sampled.miss.forEach((x, k) => {
      if (Number.isFinite(x) && !(x <= sampled.miss[at])) at = k;
    });
    return at;
  }, [sampled]);
  const { traces, between } = useMemo(() => {
    const traces: Trace[] = [];
    const between: Between[] = [];
    bands?.forEach(({ curve, edges }, i) => {
      const own = plot.curves.find((c) => c.id === curve);
      const tone = COLOURS[i % COLOURS.length];
      if (!own) return;
      between.push(
        { id: `${curve} outer`, colour: tone, strength: 0.16, x: freq, low: edges[0], high: edges[4] },
        { id: `${curve} inner`, colour: tone, strength: 0.26, x: freq, low: edges[1], high: edges[3] },
      );
      traces.push({
        id: curve,
        curve,
        label: own.label,
        name: `${own.label}, median`,
        colour: tone,
        kind: { role: 'level', level: 'modelled' },
        x: freq,
        y: edges[2],
      });
      if (worst !== undefined) {
        const c = plot.curves.indexOf(own);
        let k = worst;
        const part = plot.parts.find((p) => {
          const n = p.length / (plot.curves.length * points);
          if (k < n) return true;
          k -= n;
          return false;
        });
        const begin = (k * plot.curves.length + c) * points;
        if (part)
          traces.push({
            id: `${curve} worst`,
            label: 'worst',
            name: `${own.label}, worst sample`,
            unlabelled: true,
            colour: tone,
            kind: { role: 'overlay' },
            x: freq,
            y: part.subarray(begin, begin + points),
          });
      }
    });
    return { traces, between };
  }, [bands, plot, freq, worst, points]);
  const own = useMemo(() => limits.filter((l) => meant?.limits?.some((m) => m.id === l.id)), [limits, meant]);
  const unit = plot?.unit ?? '';
  const y = useMemo(
    (): Axis => ({
      label: unit === '1' ? '' : unit,
      range: axisRange({ title, unit, ceiling: measureOf(show)?.ceiling, traces }),
      format: (v) => `${formatNumber(v, 4)}${unit === '1' ? '' : `\u2009${unit}`}`,
    }),
    [unit, title, show, traces],
  );
  const measures = [
    ...(sampled.hasLimits ? [{ id: 'miss', label: 'worst miss' }] : []),
    ...(plot?.curves ?? []).flatMap((c) =>
      curveReadings.map((r) => ({ id: `${c.id}|${r.id}`, label: `${c.label} ${r.label}` })),
    ),
  ];
  const chosen = measures.find((m) => m.id === measured) ?? measures[0];
  const histogram = useMemo(() => {
    if (chosen.id === 'miss')
      return { values: [...sampled.miss], unit: 'dB', limit: 0, meant: sampled.meant };
    const [curve, id] = chosen.id.split('|');
    const reading = curveReadings.find((r) => r.id === id)!;
    const scale = reading.isFrequency ? 1e-9 : 1;
    return {
      values: rows(curve).map((r) => scale * reading.of(freq, r, f0)),
      unit: reading.isFrequency ? 'GHz' : unit,
    };
    // Rows follow the plot and its samples.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [chosen.id, sampled, plot, freq, f0, unit]);
  return (
    <Work>
      <ChartFrame
        title={title}
        note={`${sampled.count} samples: half of them in the inner band, nine of ten in the outer, the median drawn${worst === undefined ? '' : ', the worst dashed'}`}
        svg={upper}
        extra={
          sampled.plots.length > 1 ? (
            <Select
              label="picture of the spread"
              value={plot.plot}
              choices={sampled.plots.map((p) => {
                const of = design.plots?.find((d) => d.id === p.plot);
                const shows = of?.show ?? p.plot.replace(/^usual-/, '');
                return { id: p.plot, label: measureOf(shows)?.name ?? of?.formulas?.join(', ') ?? shows };
              })}
              onChange={setPlotId}
            />
          ) : undefined
        }
        columns={() => [
          { name: 'frequency_Hz', values: freq },
          ...(bands ?? []).flatMap(({ curve, edges }) =>
            SHARES.map((s, i) => ({ name: `${curve}_${100 * s}%_${unit}`, values: edges[i] })),
          ),
        ]}
      >
        <PlainRectChart
          label={`${title} of all samples over frequency`}
          svg={upper}
          traces={traces}
          between={between}
          limits={own}
          x={FREQUENCY}
          y={y}
          waiting={past}
        />
      </ChartFrame>
      <ChartFrame
        title={chosen.label}
        note={`of ${sampled.count} samples`}
        svg={lower}
        extra={<Select label="what is counted" value={chosen.id} choices={measures} onChange={setMeasured} />}
        columns={() => [
          { name: 'sample', values: histogram.values.map((_v, k) => k + 1) },
          ...sampled.varied.map((v, i) => ({
            name: v.label,
            values: histogram.values.map((_v, k) => v.nominal + sampled.off[k * sampled.varied.length + i]),
          })),
          { name: `${chosen.label}_${histogram.unit}`, values: histogram.values },
        ]}
      >
        <Histogram svg={lower} label={`how often: ${chosen.label}`} {...histogram} />
      </ChartFrame>
    </Work>
  );
}
