import { QueryClientProvider } from '@tanstack/react-query';
import { useEffect, useMemo, useRef, useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import styled from 'styled-components';
import { initialWishes, passBands, readWishes, type FilterWishes } from '@ditch/core/candidates';
import { media, type MediumId } from '@ditch/core/lines';
import { newId, type Design } from '@ditch/core/network';
import { laminates } from '@ditch/core/stack';
import { FilterError, filterKinds, filterShapes, meeting, type FilterShapeId } from '@ditch/core/theory';
import { ChartFrame } from '../../charts/ChartFrame';
import { FREQUENCY, PlainRectChart } from '../../charts/RectChart';
import type { LimitBand, Trace } from '../../charts/types';
import { Quiet, SectionTitle } from '../../controls/basics';
import { HelpLine, helpHandlers } from '../../controls/help';
import { QuantityInput } from '../../controls/QuantityInput';
import { Select } from '../../controls/Select';
import { queryClient } from '../../queryClient';
import { edit } from '../../store/session';
import { LaminateChoice } from '../BoardChoice';
import { withMade } from '../edits';
import { useProject } from '../hooks';
import { MediumChoice } from '../MediumChoice';
import { Side, SideScroll } from '../side';
import { prototypeCurve, type Measured } from './curves';
import { Prototype } from './Prototype';
import { Realisations } from './Realisations';

const Page = styled.div`
  display: grid;
  grid-template-columns: 320px minmax(0, 1fr);
  height: 100%;
  min-height: 0;
`;
const Scroll = styled(SideScroll)`
  padding: 14px 16px;
  display: flex;
  flex-direction: column;
  gap: 8px;
  h1 {
    font-size: 16px;
  }
`;
const Fields = styled.div`
  display: grid;
  grid-template-columns: 108px minmax(0, 1fr);
  align-items: center;
  gap: 3px 8px;
  > span {
    font-size: 12px;
  }
`;
const Work = styled.div`
  display: grid;
  grid-template-rows: minmax(0, 46fr) minmax(0, 54fr);
  min-width: 0;
  min-height: 0;
`;

type TextWish = Exclude<keyof FilterWishes, 'kind'>;
interface WishField {
  readonly name: TextWish;
  readonly label: string;
  readonly help: string;
  readonly kind: 'frequency' | 'level' | 'impedance';
  readonly placeholder?: string;
}
const EDGE: WishField = {
  name: 'edge',
  label: 'Passes to',
  help: 'Edge of the pass band: up to here, or from here on, no more is lost than allowed.',
  kind: 'frequency',
};
const BAND: readonly WishField[] = [
  {
    name: 'low',
    label: 'Lower edge',
    help: 'Where the pass band begins, or the lower one ends.',
    kind: 'frequency',
  },
  {
    name: 'high',
    label: 'Upper edge',
    help: 'Where the pass band ends, or the upper one begins.',
    kind: 'frequency',
  },
];
const REST: readonly WishField[] = [
  {
    name: 'passLoss',
    label: 'loses at most',
    help: 'Ripple of the loss that is allowed in the pass band.',
    kind: 'level',
  },
  { name: 'stopFrom', label: 'Stops from', help: 'Where the stop band begins.', kind: 'frequency' },
  {
    name: 'stopTo',
    label: 'to',
    help: 'Where it ends; left out, it is one frequency.',
    kind: 'frequency',
    placeholder: 'that alone',
  },
  {
    name: 'stopLoss',
    label: 'by at least',
    help: 'Loss that is wanted throughout the stop band.',
    kind: 'level',
  },
  { name: 'z0', label: 'Source and load', help: 'Impedance of both ports.', kind: 'impedance' },
];
const fieldsOf = (kind: FilterWishes['kind']): readonly WishField[] => [
  ...(kind === 'lowpass' ? [EDGE] : kind === 'highpass' ? [{ ...EDGE, label: 'Passes from' }] : BAND),
  ...REST,
];

/** Milliseconds without a keystroke after which realisations are made. */
const REST_OF = 350;
const LAYOVER = ['trace2', 'trace3', 'trace4', 'trace5', 'trace6'] as const;

/** A filter begins with what is wanted of it: the response that has it, and what it can be made of. */
export default function FilterView() {
  return (
    <QueryClientProvider client={queryClient}>
      <Loaded />
    </QueryClientProvider>
  );
}

function Loaded() {
  const project = useProject();
  const navigate = useNavigate();
  const [address, setAddress] = useSearchParams();
  const [params, setParams] = useState(address);
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
  const wishes = useMemo((): FilterWishes => {
    const read = Object.fromEntries(
      Object.entries(initialWishes).map(([name, initial]) => [name, params.get(name) ?? (initial as string)]),
    ) as unknown as FilterWishes;
    return filterKinds.some((k) => k.id === read.kind) ? read : { ...read, kind: initialWishes.kind };
  }, [params]);
  const stack =
    project.stacks.find((s) => s.id === params.get('stack')) ??
    laminates.find((l) => l.id === params.get('stack')) ??
    project.stacks.find((s) => s.id === project.line.stack) ??
    project.stacks[0];
  const asked = params.get('medium');
  const medium: MediumId = asked && Object.hasOwn(media, asked) ? (asked as MediumId) : project.line.medium;
  const shape =
    filterShapes.find((s) => s.id === params.get('shape'))?.id ?? ('chebyshev' satisfies FilterShapeId);
  const show: Measured = params.get('show') === 'delay' ? 'delay' : 'loss';
  const { spec, errors } = useMemo(() => readWishes(wishes), [wishes]);
  // Realisations take seconds: they wait until the hand rests.
  const [settled, setSettled] = useState(spec);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(spec), REST_OF);
    return () => clearTimeout(timer);
  }, [spec]);

  const response = useMemo(() => {
    if (!spec) return undefined;
    try {
      return { made: meeting(spec, shape) };
    } catch (error) {
      if (error instanceof FilterError) return { problem: error.message };
      throw error;
    }
  }, [spec, shape]);
  const [over, setOver] = useState<readonly Omit<Trace, 'colour'>[]>([]);
  const curve = useMemo(
    () => (spec && response?.made ? prototypeCurve(spec, response.made, show) : undefined),
    [spec, response, show],
  );
  const shapeName = filterShapes.find((s) => s.id === shape)!.name;
  const traces = useMemo(
    (): readonly Trace[] => [
      ...(curve
        ? [
            {
              id: 'prototype',
              label: shapeName.toLowerCase(),
              name: shapeName,
              colour: 'trace1' as const,
              kind: { role: 'level', level: 'ideal' } as const,
              ...curve,
            },
          ]
        : []),
      ...(show === 'loss' ? over.map((t, i): Trace => ({ ...t, colour: LAYOVER[i % LAYOVER.length] })) : []),
    ],
    [curve, over, show, shapeName],
  );
  const limits = useMemo((): readonly LimitBand[] => {
    if (!spec || show !== 'loss') return [];
    const [from, to] = spec.stop;
    return [
      ...passBands(spec).map(([low, high], i): LimitBand => ({
        id: `pass${i}`,
        side: 'above',
        level: -spec.passLoss,
        from: low,
        to: high,
      })),
      {
        id: 'stop',
        side: 'below',
        level: -spec.stopLoss,
        // One frequency is as wide as can be seen.
        from: from === to ? from * 0.99 : from,
        to: from === to ? to * 1.01 : to,
      },
    ];
  }, [spec, show]);
  const svg = useRef<SVGSVGElement>(null);
  const make = (made: Design, label: string) => {
    const id = newId();
    edit(`make \u201C${label}\u201D`, (p) => withMade(p, stack, made, id));
    void navigate(`/p/${project.id}/design/${id}`, { state: { fresh: true } });
  };

  return (
    <Page>
      <Side>
        <Scroll>
          <div>
            <h1>Filter</h1>
            <Quiet>What is wanted first, what it is made of second.</Quiet>
          </div>
          <SectionTitle>Specification</SectionTitle>
          <Fields>
            <span>Kind</span>
            <Select
              label="Kind"
              value={wishes.kind}
              choices={filterKinds.map((k) => ({ id: k.id, label: k.name }))}
              onChange={(id) => set('kind', id)}
            />
            {fieldsOf(wishes.kind).map(({ name, label, help, kind, placeholder }) => (
              <Wish
                key={name}
                label={label}
                help={help}
                kind={kind}
                placeholder={placeholder}
                value={wishes[name]}
                error={errors[name]}
                onChange={(text) => set(name, text)}
              />
            ))}
          </Fields>
          <SectionTitle>Board</SectionTitle>
          <Fields>
            <span>Laminate</span>
            <LaminateChoice stack={stack} stacks={project.stacks} onChoose={(s) => set('stack', s.id)} />
            <span>Medium</span>
            <MediumChoice medium={medium} onChoose={(m) => set('medium', m)} />
          </Fields>
          <SectionTitle>Response</SectionTitle>
          <Prototype
            spec={spec}
            shape={shape}
            response={response}
            quality={params.get('quality') ?? '200'}
            onQuality={(text) => set('quality', text)}
            onShape={(id) => set('shape', id)}
          />
        </Scroll>
        <HelpLine idle="Everything follows as you type. Nothing is added to the project until a design is made." />
      </Side>
      <Work>
        <ChartFrame
          title={show === 'loss' ? 'Response against the limits' : 'Group delay'}
          note={response?.problem ?? `${shapeName}${response?.made ? `, order ${response.made.order}` : ''}`}
          svg={svg}
          extra={
            <div {...helpHandlers('Curve', 'Loss against the limits, or the delay of the response.')}>
              <Select
                label="Curve"
                value={show}
                choices={[
                  { id: 'loss', label: '|S21|' },
                  { id: 'delay', label: 'Group delay' },
                ]}
                onChange={(id) => set('show', id)}
              />
            </div>
          }
          columns={() =>
            curve
              ? [
                  { name: 'frequency_Hz', values: Float64Array.from(curve.x) },
                  { name: show === 'loss' ? 'S21_dB' : 'delay_ns', values: Float64Array.from(curve.y) },
                ]
              : []
          }
        >
          <PlainRectChart
            label={
              show === 'loss'
                ? 'response in decibels over frequency, with its limits'
                : 'group delay over frequency'
            }
            svg={svg}
            traces={traces}
            limits={limits}
            x={FREQUENCY}
            y={
              show === 'loss'
                ? {
                    label: '|S21| in dB',
                    range: [-Math.max(50, 10 * Math.ceil((spec?.stopLoss ?? 40) / 10 + 1)), 0],
                  }
                : { label: 'ns' }
            }
          />
        </ChartFrame>
        <Realisations
          project={project}
          stack={stack}
          medium={medium}
          spec={spec && settled}
          z0={wishes.z0}
          onOver={setOver}
          onMake={make}
        />
      </Work>
    </Page>
  );
}

function Wish({
  label,
  help,
  kind,
  value,
  error,
  placeholder,
  onChange,
}: {
  label: string;
  help: string;
  kind: 'frequency' | 'level' | 'impedance';
  value: string;
  error: string | undefined;
  placeholder: string | undefined;
  onChange: (text: string) => void;
}) {
  return (
    <>
      <span>{label}</span>
      <QuantityInput
        label={label}
        help={help}
        kind={kind}
        value={value}
        error={error}
        placeholder={placeholder}
        onChange={onChange}
      />
    </>
  );
}
