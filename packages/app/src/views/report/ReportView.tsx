import { useMemo, useRef, useState, type RefObject } from 'react';
import { Link, useParams } from 'react-router';
import styled from 'styled-components';
import { levelById, levels, liveLevels } from '@ditch/core/levels';
import type { Design, Plot, Project, ResolvedDesign } from '@ditch/core/network';
import { parts } from '@ditch/core/parts';
import { recipes } from '@ditch/core/recipes';
import { stackFields } from '@ditch/core/stack';
import { ToleranceError, tolerancesOf, variedOf } from '@ditch/core/studies';
import { formatComplex, formatNumber, formatQuantity, kindOf } from '@ditch/core/units';
import { FREQUENCY, PlainRectChart } from '../../charts/RectChart';
import { SmithChart } from '../../charts/SmithChart';
import { Button, PrimaryButton, Quiet, TextButton } from '../../controls/basics';
import { useConstant } from '../../live';
import { useResponses, type Task, type Wanted } from '../../responses';
import { useSolvedStates } from '../../responses/solvedStates';
import { useCheckpoints } from '../../store/library';
import { addCheckpoint, say } from '../../store/session';
import { colour } from '../../theme';
import {
  axisRange,
  drawPlot,
  missed,
  plotsOf,
  rolesFrom,
  smithTraces,
  sourcesOf,
  type Source,
} from '../design/plots';
import type { Examined as ExaminedDesign } from '../../bridge/examining';
import { readAt } from '../design/points';
import { Empty } from '../Empty';
import { useExamined } from '../useExamined';
import { usePreferences, useProject } from '../hooks';
import { useMade } from '../making/useMade';
import { useSpread } from '../studies/useSpread';
import { Drawing } from './Drawing';
import { savePage } from './save';

const Desk = styled.div`
  padding: 16px 24px 60px;
  background: ${colour('page')};
  @media print {
    padding: 0;
    background: #fff;
  }
`;
const Bar = styled.div`
  display: flex;
  align-items: center;
  gap: 10px;
  max-width: 720px;
  margin: 0 auto 14px;
  @media print {
    display: none;
  }
`;
/** As wide as a page of paper between its margins. */
const Sheet = styled.article`
  max-width: 720px;
  margin: 0 auto;
  padding: 28px 34px;
  border: 1px solid ${colour('rule')};
  background: ${colour('raised')};
  font-size: 12px;
  @media print {
    padding: 0;
    border: 0;
    background: #fff;
  }
  h1 {
    font-size: 20px;
  }
  h2 {
    margin: 20px 0 6px;
    padding-bottom: 3px;
    border-bottom: 1px solid ${colour('rule')};
    font-size: 13px;
    break-after: avoid;
  }
  table {
    width: 100%;
    border-collapse: collapse;
  }
  th,
  td {
    padding: 2px 10px 2px 0;
    border-bottom: 1px solid ${colour('rule')};
    text-align: left;
    vertical-align: top;
    font-weight: 400;
  }
  thead th {
    color: ${colour('quiet')};
    font-size: 11px;
  }
  tr,
  figure,
  li {
    break-inside: avoid;
  }
  li {
    padding: 2px 0;
  }
  li::before {
    content: '\u2013\u00A0';
  }
`;
const Figure = styled.figure`
  position: relative;
  margin-top: 10px;
  figcaption {
    display: flex;
    justify-content: space-between;
    gap: 12px;
    font-weight: 600;
    span {
      font-weight: 400;
    }
  }
  > div {
    position: relative;
    height: 240px;
  }
`;

/** What a value comes to, in words. */
const told = (resolved: ResolvedDesign, name: string): string => {
  const quantity = resolved.values.get(name);
  if (!quantity) return 'an error';
  const kind = kindOf(quantity.dimension);
  return kind ? formatComplex(quantity.re, quantity.im, kind, { digits: 5 }) : formatNumber(quantity.re, 5);
};

/** What comes out otherwise than it is meant, in words; the tolerances as typed where they cannot be read. */
function variedHere(
  project: Project,
  design: Design,
  resolved: ResolvedDesign,
): { readonly key: string; readonly label: string; readonly text: string }[] {
  const wanted = tolerancesOf(project, design);
  try {
    const varied = variedOf(design, resolved, wanted);
    return wanted.map(({ key, text }) => ({
      key,
      text,
      label: varied.find((v) => v.key === key)?.label ?? key,
    }));
  } catch (error) {
    if (error instanceof ToleranceError) return wanted.map(({ key, text }) => ({ key, text, label: key }));
    throw error;
  }
}

/** The faces of a side of a piece, in words. */
function facesOf(piece: ResolvedDesign['pieces'][number], side: 'electrical' | 'physical'): string {
  if (!piece.values) return 'an error';
  const properties = parts.get(piece.kind)?.properties ?? [];
  return properties
    .flatMap((p) => p.faces)
    .filter((f) => f.side === side)
    .flatMap((f) => {
      const value = piece.values?.[f.name];
      if (!value) return [];
      const held = piece.held.includes(f.name) ? ' \u25AA' : '';
      return [
        `${f.label.toLowerCase()} ${formatComplex(value.re, value.im, f.rule.kind, { digits: 4 })}${held}`,
      ];
    })
    .join(', ');
}

function PlotFigure({
  plot,
  sources,
  roles,
  resolved,
}: {
  plot: Plot;
  sources: readonly Source[];
  roles: ReturnType<typeof rolesFrom>;
  resolved: ResolvedDesign;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const drawn = useMemo(
    () => drawPlot(plot, sources, roles, resolved.values),
    [plot, sources, roles, resolved],
  );
  const limits = resolved.limits.filter((l) => plot.limits?.some((p) => p.id === l.id));
  const worst = missed(drawn.traces, limits, drawn.unit);
  const markers = resolved.markers.map((m) => ({ id: m.id, label: '', x: m.freq, fixed: true }));
  return (
    <Figure>
      <figcaption>
        {plot.show === 'smith' ? 'Smith chart' : drawn.title}
        {worst !== undefined && (
          <span>
            limits {worst <= 0 ? 'kept' : 'missed'} by {formatNumber(Math.abs(worst), 2)} {drawn.unit}
          </span>
        )}
      </figcaption>
      <div>
        {plot.show === 'smith' ? (
          <Smith svg={svg} sources={sources} />
        ) : (
          <PlainRectChart
            label={`${drawn.title.toLowerCase()} over frequency`}
            svg={svg}
            traces={drawn.traces}
            markers={markers}
            limits={limits}
            x={FREQUENCY}
            y={{
              label: drawn.unit,
              range: axisRange(drawn),
              format: (v) => `${formatNumber(v)}\u2009${drawn.unit}`,
            }}
          />
        )}
      </div>
    </Figure>
  );
}

function Smith({ svg, sources }: { svg: RefObject<SVGSVGElement | null>; sources: readonly Source[] }) {
  const picture = useConstant(useMemo(() => ({ traces: smithTraces(sources), markers: [] }), [sources]));
  return <SmithChart label="reflection of port 1" svg={svg} picture={picture} grids={['impedance']} />;
}

/** A design on paper: goal, theory, board, ledger, copper, response at every level, review, spread, checks. */
export default function ReportView() {
  const { designId = '' } = useParams();
  const project = useProject();
  const design = project.designs.find((d) => d.id === designId);
  if (!design)
    return (
      <Empty title="This design is not there">
        It was removed, or the address is of another project.{' '}
        <Link to={`/p/${project.id}`}>See the project’s designs</Link>.
      </Empty>
    );
  return <Examined key={design.id} project={project} design={design} />;
}

function Examined({ project, design }: { project: Project; design: Design }) {
  const examined = useExamined(project, design);
  return examined ? (
    <Report project={project} design={design} examined={examined} />
  ) : (
    <Empty title="Working it out…" />
  );
}

function Report({
  project,
  design,
  examined: { resolved, layout, remarks },
}: {
  project: Project;
  design: Design;
  examined: ExaminedDesign;
}) {
  const sheet = useRef<HTMLElement>(null);
  const theme = usePreferences((p) => p.theme);
  const { answer, late } = useMade(project, { design: design.id });
  const states = useMemo(() => [{ project, design }], [project, design]);
  const solved = useSolvedStates(states, resolved.sweep);
  const wanted = useMemo((): Wanted | undefined => {
    if (!resolved.sweep) return undefined;
    const tasks = [
      ...liveLevels.flatMap((level): Task[] => {
        const subject = level.subject(resolved);
        return subject ? [{ id: level.id, level: level.id, subject, first: true, read: true }] : [];
      }),
      ...(solved ?? []).map((subject): Task => ({
        id: 'solved',
        level: 'solved',
        subject,
        first: true,
        read: true,
      })),
    ];
    // Limits are judged at their edges, as beside the work: between them a sweep may step over what misses.
    return tasks.length > 0
      ? { sweep: resolved.sweep, data: project.data, at: readAt(resolved), tasks }
      : undefined;
  }, [resolved, solved, project.data]);
  const responses = useResponses(wanted);
  const sources = useMemo(
    () =>
      sourcesOf(
        levels.map(({ id }) => ({ level: id, data: responses.results.get(id)?.data })),
        undefined,
        project.data.filter((d) => design.overlays.includes(d.id)),
      ),
    [responses.results, project.data, design.overlays],
  );
  const roles = useMemo(() => rolesFrom(sources, resolved.f0), [sources, resolved.f0]);
  const plots = sources.length > 0 ? plotsOf(design, roles) : [];
  const stack = project.stacks.find((s) => s.id === design.stack);
  const recipe = design.recipe === undefined ? undefined : recipes.get(design.recipe);
  const tolerances = useMemo(() => variedHere(project, design, resolved), [project, design, resolved]);
  const spread = useSpread(project, design, 0.05, 1);
  // The state that is shown has a name where a checkpoint holds just this.
  const checkpoints = useCheckpoints(project.id);
  const kept = useMemo(
    () => checkpoints?.find((c) => JSON.stringify(c.project) === JSON.stringify(project))?.name,
    [checkpoints, project],
  );
  const [name, setName] = useState<string>();
  const keep = () => {
    const own = `Report of ${design.name}, ${new Date().toLocaleString()}`;
    setName(own);
    addCheckpoint(own).catch(() => {
      setName(undefined);
      say('The checkpoint could not be stored. Export the project file to keep this state.');
    });
  };
  const shown = levels.filter(({ id }) => sources.some((s) => s.id === id));
  const ready = answer !== undefined && !late && (wanted === undefined || !responses.waiting);
  return (
    <Desk>
      <Bar>
        <PrimaryButton onPress={() => print()} isDisabled={!ready}>
          Print
        </PrimaryButton>
        <Button onPress={() => sheet.current && savePage(sheet.current, design.name)} isDisabled={!ready}>
          Save as HTML
        </Button>
        <Button onPress={spread.start} isDisabled={tolerances.length === 0 || spread.progress !== undefined}>
          {spread.progress === undefined ? 'Take the spread along' : `${Math.round(100 * spread.progress)} %`}
        </Button>
        <Quiet>
          {ready ? 'Printing keeps it as PDF where the browser offers that.' : 'Working it out…'}
          {theme === 'dark' && ' It is printed light.'}
        </Quiet>
      </Bar>
      <Sheet ref={sheet} aria-label={`report of ${design.name}`} data-ready={ready}>
        <h1>{design.name}</h1>
        <p>
          {project.name} · {new Date().toLocaleDateString()} ·{' '}
          {(kept ?? name) !== undefined ? (
            `checkpoint \u201C${(kept ?? name)!}\u201D`
          ) : (
            <>
              a state without a checkpoint{' '}
              <span data-screen-only>
                <TextButton onPress={keep}>keep one</TextButton>
              </span>
            </>
          )}
        </p>

        <h2>Goal</h2>
        {recipe && (
          <p>
            {recipe.name}: {recipe.about}
          </p>
        )}
        {design.note && <p>{design.note}</p>}
        <p>
          Design frequency{' '}
          {resolved.f0 === undefined ? 'unknown' : formatQuantity(resolved.f0, 'frequency', { digits: 6 })}
          {design.goal.trim() !== '' && `; a return loss of ${design.goal} is read out`}
          {resolved.limits.length > 0 && `; ${resolved.limits.length} limits in the plots below`}.
        </p>

        <h2>Theory</h2>
        {recipe && <p>{recipe.source}</p>}
        <table>
          <tbody>
            {design.values.map((v) => (
              <tr key={v.name}>
                <td>{v.name}</td>
                <td>{v.value}</td>
                <td>{told(resolved, v.name)}</td>
                <td>{v.note}</td>
              </tr>
            ))}
          </tbody>
        </table>

        <h2>Board</h2>
        {stack && (
          <>
            <p>
              {stack.name}, {design.medium}
            </p>
            <table>
              <tbody>
                {stackFields.flatMap((f) => {
                  const label = f.labelIn?.[design.medium] === undefined ? f.label : f.labelIn[design.medium];
                  const text = stack[f.field]?.trim() || f.empty?.word;
                  return label === null || text === undefined
                    ? []
                    : [
                        <tr key={f.field}>
                          <td style={{ width: 180 }}>{label}</td>
                          <td>{text}</td>
                        </tr>,
                      ];
                })}
              </tbody>
            </table>
          </>
        )}

        <h2>
          Copper,{' '}
          {answer?.plan
            ? `${formatQuantity(answer.plan.width, 'length')} by ${formatQuantity(answer.plan.height, 'length')}`
            : 'to scale'}
        </h2>
        <Drawing layout={layout} order={design.pieces.map((p) => p.id)} />

        <h2>Ledger</h2>
        <table>
          <thead>
            <tr>
              <th>no.</th>
              <th>piece</th>
              <th>electrical</th>
              <th>physical</th>
            </tr>
          </thead>
          <tbody>
            {resolved.pieces.map((p, i) => (
              <tr key={p.id}>
                <td>{i + 1}</td>
                <td>{p.name}</td>
                <td>{facesOf(p, 'electrical')}</td>
                <td>{facesOf(p, 'physical')}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <p>
          <Quiet>{'\u25AA'} held; the other faces follow.</Quiet>
        </p>

        <h2>Response</h2>
        <p>
          {shown.length > 0
            ? `Levels: ${shown.map(({ id }) => levelById[id].name).join(', ')}.`
            : 'There is no response while the design has errors.'}
          {shown.length > 0 && !solved && ' The copper was not solved over this sweep.'}
        </p>
        {plots.map((plot) => (
          <PlotFigure key={plot.id} plot={plot} sources={sources} roles={roles} resolved={resolved} />
        ))}

        <h2>Review</h2>
        {remarks.length === 0 ? (
          <p>Nothing to question.</p>
        ) : (
          <ul>
            {remarks.map((r) => (
              <li key={r.id}>{r.message}</li>
            ))}
          </ul>
        )}

        <h2>Spread</h2>
        {tolerances.length === 0 ? (
          <p>No value has a tolerance.</p>
        ) : (
          <>
            <table>
              <tbody>
                {tolerances.map((t) => (
                  <tr key={t.key}>
                    <td>{t.label}</td>
                    <td>± {t.text}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            <p>
              {spread.sampled && !spread.past
                ? spread.sampled.hasLimits
                  ? `Of ${spread.sampled.count} samples ${formatNumber(100 * spread.sampled.told.yield, 3)} % keep all limits (95 % confidence: ${formatNumber(100 * spread.sampled.told.low, 3)} to ${formatNumber(100 * spread.sampled.told.high, 3)} %).`
                  : `${spread.sampled.count} samples were taken; without limits there is no yield.`
                : (spread.problem?.text ?? 'The yield was not taken along.')}
            </p>
          </>
        )}

        <h2>Checks for making</h2>
        {!answer ? (
          <p>Working it out…</p>
        ) : answer.findings.length === 0 ? (
          <p>
            {answer.plan
              ? `Nothing that ${project.shop?.name ?? 'a usual shop'} would send back.`
              : answer.problems.map((p) => p.message).join('; ')}
          </p>
        ) : (
          <ul>
            {answer.findings.map((f, i) => (
              <li key={i}>
                {f.text}: {f.remedy}.
              </li>
            ))}
          </ul>
        )}
      </Sheet>
    </Desk>
  );
}
