import { QueryClientProvider } from '@tanstack/react-query';
import { useMemo, useRef, useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import styled from 'styled-components';
import { intended, liveLevels } from '@ditch/core/levels';
import { media, type MediumId } from '@ditch/core/lines';
import { newId, resolveDesign, type Project } from '@ditch/core/network';
import { readCoupler, readFilter, rolesOf, usualPlots, type CouplerReading } from '@ditch/core/plots';
import { review } from '@ditch/core/review';
import {
  dataLoad,
  initialInputs,
  RecipeError,
  recipes,
  type Recipe,
  type RecipeField,
  type RecipeInputs,
} from '@ditch/core/recipes';
import { laminates, type Stack } from '@ditch/core/stack';
import { formatNumber, formatQuantity } from '@ditch/core/units';
import { ChartFrame } from '../../charts/ChartFrame';
import { FREQUENCY, PlainRectChart } from '../../charts/RectChart';
import { PrimaryButton, Quiet, SectionTitle, TextButton } from '../../controls/basics';
import { Select } from '../../controls/Select';
import { HelpLine, helpHandlers } from '../../controls/help';
import { ErrorText, InputBox, QuantityInput, ScrubLabel } from '../../controls/QuantityInput';
import type { Trace } from '../../charts/types';
import { useHandler } from '../../controls/stable';
import { queryClient } from '../../queryClient';
import { useResponses, type Wanted } from '../../responses';
import { Candidates } from './Candidates';
import { Forbidden } from './Forbidden';
import { Reach } from './Reach';
import { chooseTouchstone } from '../../store/library';
import { edit } from '../../store/session';
import { colour } from '../../theme';
import { Picture } from '../design/Picture';
import { drawPlot, quantityColours, type Source } from '../design/plots';
import { bandOf, decibels, directed } from '../design/Waterline';
import { addData, withMade, withStack } from '../edits';
import { LaminateChoice } from '../BoardChoice';
import { MediumChoice } from '../MediumChoice';
import { Empty } from '../Empty';
import { useProject } from '../hooks';
import { Side, SideScroll } from '../side';

const Page = styled.div`
  display: grid;
  grid-template-columns: 380px minmax(0, 1fr);
  height: 100%;
  min-height: 0;
`;
const Scroll = styled(SideScroll)`
  padding: 14px 16px;
  display: flex;
  flex-direction: column;
  gap: 10px;
  h1 {
    font-size: 16px;
  }
`;
const Foot = styled.div`
  padding: 10px 16px;
  border-top: 1px solid ${colour('rule')};
`;
const Grid = styled.div`
  display: grid;
  grid-template-columns: 118px minmax(0, 1fr);
  align-items: center;
  gap: 3px 8px;
  > span {
    font-size: 12px;
  }
`;
const Wide = styled.div`
  grid-column: 2 / -1;
`;
const Theory = styled.div`
  display: grid;
  gap: 6px;
  padding: 10px 12px;
  border-left: 3px solid ${colour('rule')};
  color: ${colour('ink')};
  small {
    color: ${colour('quiet')};
  }
`;
const Preview = styled.div`
  display: grid;
  grid-template-rows: minmax(0, 42fr) 44px minmax(0, 58fr);
  min-width: 0;
  min-height: 0;
`;
const Above = styled.div<{ $split: boolean }>`
  position: relative;
  display: grid;
  grid-template-columns: ${({ $split }) => ($split ? 'minmax(0, 1fr) 320px' : 'minmax(0, 1fr)')};
  min-height: 0;
  > * {
    min-width: 0;
  }
`;
const Below = styled.div<{ $split: boolean }>`
  display: grid;
  grid-template-columns: ${({ $split }) => ($split ? 'minmax(0, 1fr) 440px' : 'minmax(0, 1fr)')};
  min-height: 0;
`;
const Line = styled.div`
  display: flex;
  align-items: center;
  gap: 22px;
  padding: 0 16px;
  background: ${colour('water')};
  color: ${colour('onWater')};
  white-space: nowrap;
  overflow: hidden;
`;

const DATA = dataLoad('');

export default function RecipeView() {
  const { recipeId = '' } = useParams();
  const recipe = recipes.get(recipeId);
  if (!recipe)
    return (
      <Empty title="There is no such recipe">
        <Link to="../recipes" relative="path">
          See all recipes
        </Link>
      </Empty>
    );
  return (
    <QueryClientProvider client={queryClient}>
      <Loaded key={recipe.id} recipe={recipe} />
    </QueryClientProvider>
  );
}

/** The project as it would be with the recipe's board in it. */
function contextOf(project: Project, params: URLSearchParams): { stack: Stack; medium: MediumId } {
  const id = params.get('stack');
  const stack =
    project.stacks.find((s) => s.id === id) ??
    laminates.find((l) => l.id === id) ??
    project.stacks.find((s) => s.id === project.line.stack) ??
    project.stacks[0];
  const medium = params.get('medium');
  return {
    stack,
    medium: medium && Object.hasOwn(media, medium) ? (medium as MediumId) : project.line.medium,
  };
}

function Loaded({ recipe }: { recipe: Recipe }) {
  const project = useProject();
  const navigate = useNavigate();
  const [address, setAddress] = useSearchParams();
  // What is typed is held here, because the address follows too late to type into; it is written there as well, so that
  // the specification survives a reload and can be sent to a colleague.
  const [params, setParams] = useState(address);
  const svg = useRef<SVGSVGElement>(null);
  const { stack, medium } = contextOf(project, params);
  const inputs = useMemo((): RecipeInputs => {
    const start = { ...initialInputs(recipe), freq: project.line.freq };
    return Object.fromEntries(
      Object.entries(start).map(([name, initial]) => [name, params.get(name) ?? initial]),
    );
  }, [recipe, params, project.line.freq]);
  // A file that is read comes back after other entries were typed: each change starts from the newest.
  const newest = useRef(address);
  const change = (next: URLSearchParams) => {
    newest.current = next;
    setParams(next);
    setAddress(next, { replace: true });
  };
  const set = (name: string, value: string) => {
    const next = new URLSearchParams(newest.current);
    next.set(name, value);
    change(next);
  };

  const outcome = useMemo(() => {
    const withBoard = withStack(project, stack);
    const context = {
      stack: { ...stack, id: withBoard.id },
      medium,
      newId: () => 'preview',
      data: project.data,
    };
    try {
      const design = recipe.design(inputs, context);
      const resolved = resolveDesign(withBoard.project, design);
      return {
        design,
        resolved,
        remarks: review(withBoard.project, design, resolved),
        theory: recipe.explain(inputs, context),
        error: undefined,
      };
    } catch (error) {
      if (error instanceof RecipeError) return { error };
      throw error;
    }
  }, [recipe, inputs, stack, medium, project]);

  const f0 = outcome.resolved?.f0;
  const wanted = useMemo((): Wanted | undefined => {
    const { resolved } = outcome;
    const subject = resolved && intended.subject(resolved);
    if (!resolved?.sweep || !subject) return undefined;
    const { f0: near, goal, sweep } = resolved;
    return {
      sweep,
      data: project.data,
      match: near === undefined ? undefined : { near, target: -goal },
      at: near === undefined ? [] : [near],
      // What copper makes of a coupler or a filter is said beside what it is meant to be; of the rest only that is drawn.
      tasks: (recipe.goal === 'couple' || recipe.goal === 'filter' ? liveLevels : [intended]).flatMap(
        (level) => {
          const own = level.subject(resolved);
          return own
            ? [{ id: level.id, level: level.id, subject: own, first: level.id === intended.id, read: true }]
            : [];
        },
      ),
    };
  }, [outcome, project.data, recipe.goal]);
  const response = useResponses(wanted);
  const result = response.results.get(intended.id);
  const data = result?.data;
  const roles = useMemo(() => (data && f0 !== undefined ? rolesOf(data, f0) : undefined), [data, f0]);
  const goal = formatQuantity(outcome.resolved?.goal ?? 20, 'level', { digits: 3 });
  // What is matched over the whole preview has no centre; what it couples is the question.
  const everywhere = result?.match?.band?.openLow && result.match.band.openHigh;
  const couplers = liveLevels.map(({ id, name }) => {
    const own = response.results.get(id)?.data;
    return {
      name,
      reading: everywhere && own && roles && f0 !== undefined ? readCoupler(own, roles, f0) : undefined,
    };
  });
  const filters = useMemo(() => {
    if (recipe.goal !== 'filter' || f0 === undefined) return [];
    const meant = data && readFilter(data, f0);
    return liveLevels.flatMap(({ id, name }) => {
      const own = response.results.get(id)?.data;
      const reading = meant && own && readFilter(own, f0, meant.kind);
      return reading ? [{ name, reading }] : [];
    });
  }, [recipe.goal, f0, data, response.results]);
  const drawn = useMemo(() => {
    if (!data || !roles) return undefined;
    const source: Source = {
      id: intended.id,
      name: intended.name,
      kind: { role: 'level', level: intended.id },
      data,
    };
    const [show] = usualPlots(roles);
    const first = drawPlot({ id: 'preview', show }, [source], roles);
    if (roles.outputs.length < 2 || roles.isolated.length > 0) return first;
    // What a divider is made for stands beside what port 1 sees: isolation, and the match of the outputs.
    const more = ['isolation', 'match'].flatMap((id) => drawPlot({ id, show: id }, [source], roles).traces);
    const all = [...new Map([...first.traces, ...more].map((t) => [t.curve, t])).values()];
    return {
      ...first,
      traces: all.map((t, i) => ({ ...t, colour: quantityColours[i % quantityColours.length] })),
    };
  }, [data, roles]);
  const errors = outcome.remarks?.filter((r) => r.severity === 'error') ?? [];
  const ready = outcome.design !== undefined && errors.length === 0;

  const [overlay, setOverlay] = useState<readonly Trace[]>([]);
  const traces = useMemo(() => [...(drawn?.traces ?? []), ...overlay], [drawn, overlay]);
  const withBoard = useMemo(() => withStack(project, stack).project, [project, stack]);
  const context = useMemo(
    () => ({ stack, medium, newId: () => 'preview', data: project.data }),
    [stack, medium, project.data],
  );
  const use = useHandler((id: string, chosen: RecipeInputs) => {
    const next = new URLSearchParams(params);
    for (const [name, value] of Object.entries(chosen)) next.set(name, value);
    if (id === recipe.id) change(next);
    else void navigate(`/p/${project.id}/recipes/${id}?${next.toString()}`);
  });
  const make = () => {
    const id = newId();
    edit(`make \u201C${outcome.design!.name}\u201D`, (p) => withMade(p, stack, outcome.design!, id));
    void navigate(`/p/${project.id}/design/${id}`, { state: { fresh: true } });
  };
  const match = result?.match;

  return (
    <Page>
      <Side>
        <Scroll>
          <div>
            <h1>{recipe.name}</h1>
            <Quiet>{recipe.about}</Quiet>
          </div>
          <SectionTitle>Goal</SectionTitle>
          <Grid>
            {recipe.fields
              .filter((f) => !f.when || f.when(inputs))
              .map((field) => (
                <Field
                  key={field.name}
                  field={field}
                  value={inputs[field.name]}
                  error={outcome.error?.field === field.name ? outcome.error.message : undefined}
                  project={project}
                  onChange={(text) => set(field.name, text)}
                />
              ))}
          </Grid>
          <SectionTitle>Board</SectionTitle>
          <Grid>
            <span>Laminate</span>
            <LaminateChoice stack={stack} stacks={project.stacks} onChoose={(s) => set('stack', s.id)} />
            <span>Medium</span>
            <MediumChoice medium={medium} onChoose={(m) => set('medium', m)} />
          </Grid>
          {recipe.coupled && <Reach recipe={recipe} inputs={inputs} stack={stack} medium={medium} />}
          <SectionTitle>Theory</SectionTitle>
          <Theory>
            {outcome.theory?.map((sentence) => <p key={sentence}>{sentence}</p>) ?? (
              <p>The numbers follow once the goal can be met.</p>
            )}
            <small>{recipe.source}</small>
          </Theory>
          {outcome.remarks && outcome.remarks.length > 0 && (
            <ul aria-label="Remarks">
              {outcome.remarks.map((r) => (
                <li key={r.message}>
                  {r.severity === 'error' ? <ErrorText>{r.message}</ErrorText> : <Quiet>{r.message}</Quiet>}
                </li>
              ))}
            </ul>
          )}
        </Scroll>
        <Foot>
          <PrimaryButton isDisabled={!ready} onPress={make}>
            Make the design
          </PrimaryButton>
        </Foot>
        <HelpLine idle="The preview follows as you type. Nothing is added to the project until you make the design." />
      </Side>
      <Preview>
        <Above $split={recipe.forbidden !== undefined}>
          {outcome.resolved ? (
            <Picture resolved={outcome.resolved} />
          ) : (
            <Empty title="No copper yet">
              {outcome.error?.message ? `The goal cannot be met: ${outcome.error.message}.` : ''}
            </Empty>
          )}
          {recipe.forbidden && <Forbidden recipe={recipe} inputs={inputs} context={context} />}
        </Above>
        <Line role="status">
          {filters.length > 0 ? (
            filters.map(({ name, reading }) => (
              <span key={name}>
                {name} {reading.kind} <b>{bandOf(reading)}</b>, loss {decibels(reading.loss)}
              </span>
            ))
          ) : couplers.some((c) => c.reading) ? (
            <CouplerLine couplers={couplers} f0={f0!} />
          ) : (
            <>
              <b>ideal</b>
              {match ? (
                <>
                  <span>
                    match at <b>{formatQuantity(match.best, 'frequency', { digits: 5 })}</b>
                  </span>
                  <span>
                    {match.band
                      ? `${goal} return loss over ${match.band.openLow || match.band.openHigh ? 'more than ' : ''}${formatQuantity(match.band.high - match.band.low, 'frequency', { digits: 3 })}, ${formatNumber(((match.band.high - match.band.low) / match.best) * 100, 3)} %`
                      : `${goal} return loss is not reached`}
                  </span>
                </>
              ) : (
                <span>—</span>
              )}
            </>
          )}
        </Line>
        <Below $split={recipe.family !== undefined}>
          <ChartFrame
            title="Preview"
            note="ideal level; the design adds loss and dispersion"
            svg={svg}
            columns={() =>
              drawn && data
                ? [
                    { name: 'frequency_Hz', values: data.freq },
                    ...drawn.traces.map((t) => ({
                      name: `${t.label}_${drawn.unit}`,
                      values: Float64Array.from(t.y),
                    })),
                  ]
                : []
            }
          >
            <PlainRectChart
              label={
                roles && roles.ports > 1
                  ? 'preview of the response in decibels over frequency'
                  : 'preview of the reflection in decibels over frequency'
              }
              svg={svg}
              traces={traces}
              x={FREQUENCY}
              y={{ label: roles && roles.ports > 1 ? 'dB' : '|S11| in dB', range: [-50, 0] }}
              goal={{ level: -(outcome.resolved?.goal ?? 20), from: match?.band?.low, to: match?.band?.high }}
              waiting={!ready || response.waiting}
            />
          </ChartFrame>
          {recipe.family && (
            <Candidates
              project={withBoard}
              recipe={recipe.id}
              inputs={inputs}
              stack={stack.id}
              medium={medium}
              onOverlay={setOverlay}
              onUse={use}
            />
          )}
        </Below>
      </Preview>
    </Page>
  );
}

interface FieldProps {
  readonly field: RecipeField;
  readonly value: string;
  readonly error?: string;
  readonly project: Project;
  readonly onChange: (text: string) => void;
}

function Field({ field, value, error, project, onChange }: FieldProps) {
  const quantity = field.type === 'quantity' || field.type === 'count';
  return (
    <>
      <span>
        {quantity ? (
          <ScrubLabel value={value} onChange={onChange}>
            {field.label}
          </ScrubLabel>
        ) : (
          field.label
        )}
      </span>
      {field.type === 'choice' ? (
        <div {...helpHandlers(field.label, field.help)}>
          <Select label={field.label} value={value} choices={field.options} onChange={onChange} />
        </div>
      ) : field.type === 'load' ? (
        <LoadField field={field} value={value} error={error} project={project} onChange={onChange} />
      ) : (
        <QuantityInput
          label={field.label}
          help={field.help}
          kind={field.type === 'quantity' ? field.rule.kind : undefined}
          value={value}
          error={error}
          placeholder={field.type === 'text' ? field.placeholder : undefined}
          onChange={onChange}
        />
      )}
    </>
  );
}

/** A load: an impedance as text, or one-port data from a Touchstone file. */
function LoadField({ field, value, error, project, onChange }: FieldProps) {
  const block = value.startsWith(DATA)
    ? project.data.find((d) => d.id === value.slice(DATA.length))
    : undefined;
  const fromFile = async () => {
    const added = await chooseTouchstone();
    if (!added) return;
    addData(added);
    onChange(dataLoad(added.id));
  };
  if (block)
    return (
      <div>
        <InputBox aria-label={field.label} readOnly value={block.name} />
        {error && <ErrorText>{error}</ErrorText>}
        <TextButton onPress={() => onChange(field.initial)}>type an impedance</TextButton>
      </div>
    );
  return (
    <>
      <QuantityInput
        label={field.label}
        help={field.help}
        kind="impedance"
        value={value}
        error={error}
        onChange={onChange}
      />
      <Wide style={{ fontSize: 11 }}>
        <TextButton onPress={() => void fromFile()}>or one-port data from a file</TextButton>
      </Wide>
    </>
  );
}

/** What a coupler comes to at each level. */
function CouplerLine({
  couplers,
  f0,
}: {
  couplers: readonly { readonly name: string; readonly reading: CouplerReading | undefined }[];
  f0: number;
}) {
  return couplers.map(
    ({ name, reading }) =>
      reading && (
        <span key={name}>
          {name} <b>{decibels(reading.coupling)}</b>, within 1 dB over {reading.band.open ? 'more than ' : ''}
          {formatNumber((100 * (reading.band.high - reading.band.low)) / f0, 3)} %
          {reading.directivity > 80
            ? ''
            : `, ${directed(reading.directivity)}, match ${decibels(-reading.match)}`}
        </span>
      ),
  );
}
