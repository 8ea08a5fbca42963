import { QueryClientProvider } from '@tanstack/react-query';
import { useMemo, useRef } from 'react';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import { resolveSheet, sheetProperties, type LineSheet } from '@ditch/core/network';
import { media, synthesiseWidth, UnreachableImpedance } from '@ditch/core/lines';
import { formatNumber, formatQuantity, lengthUnit } from '@ditch/core/units';
import { ChartFrame } from '../../charts/ChartFrame';
import { PlainRectChart, type Guide } from '../../charts/RectChart';
import type { Trace } from '../../charts/types';
import { PrimaryButton, Quiet, SectionTitle } from '../../controls/basics';
import { HelpLine } from '../../controls/help';
import { ErrorText, QuantityInput, ScrubLabel } from '../../controls/QuantityInput';
import { useImpedanceCurve } from '../../queries';
import { queryClient } from '../../queryClient';
import { edit, endMerge } from '../../store/session';
import { colour } from '../../theme';
import { chooseLineStack, LINES_PAGE, ownLineBoard, usersOf } from '../edits';
import { FaceEditor } from '../FaceEditor';
import { useProject } from '../hooks';
import { MediumChoice } from '../MediumChoice';
import { SharedBoard } from '../SharedBoard';
import { Side, SideScroll } from '../side';
import { StackForm } from '../StackForm';
import { CrossSection } from './CrossSection';

const Page = styled.div`
  display: grid;
  grid-template-columns: 318px minmax(330px, 380px) minmax(0, 1fr);
  @media (max-width: 1120px) {
    grid-template-columns: 296px 308px minmax(0, 1fr);
    dl {
      font-size: 12px;
    }
  }
  height: 100%;
  min-height: 0;
`;
const Scroll = styled(SideScroll)`
  padding: 12px 16px;
  display: flex;
  flex-direction: column;
  gap: 8px;
`;
const Right = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  grid-template-rows: minmax(0, 42fr) minmax(0, 58fr);
  min-width: 0;
  min-height: 0;
`;
const Curve = styled.div`
  border-top: 1px solid ${colour('rule')};
  background: ${colour('raised')};
  min-height: 0;
`;
const Results = styled.dl`
  display: grid;
  grid-template-columns: 1fr auto;
  row-gap: 5px;
  dt {
    color: ${colour('quiet')};
  }
  dd {
    text-align: right;
    font-weight: 500;
  }
`;
const Frequency = styled.div`
  display: grid;
  grid-template-columns: 10px 104px minmax(0, 1fr);
  align-items: center;
  column-gap: 6px;
  span {
    font-size: 12px;
  }
`;
const Warnings = styled.ul`
  display: grid;
  gap: 6px;
  li {
    padding: 6px 10px;
    border-left: 3px solid ${colour('caution')};
    background: ${colour('page')};
    font-size: 12px;
  }
`;

const STANDARD = [25, 35.36, 50, 70.71, 75, 100];

const setSheet = (change: Partial<LineSheet>, label: string, merge: string) =>
  edit(label, (p) => ({ ...p, line: { ...p.line, ...change } }), `line:${merge}`);

/** One line: its board, its two faces, its cross-section, and the curve to read widths from. */
export default function LinesView() {
  return (
    <QueryClientProvider client={queryClient}>
      <Lines />
    </QueryClientProvider>
  );
}

function Lines() {
  const project = useProject();
  const navigate = useNavigate();
  const svg = useRef<SVGSVGElement>(null);
  const { line: sheet, stacks } = project;
  const stack = stacks.find((s) => s.id === sheet.stack)!;
  // The sheet and its stack are all that resolution reads.
  // eslint-disable-next-line react-hooks/exhaustive-deps
  const resolved = useMemo(() => resolveSheet(project), [sheet, stacks]);
  const { analysis, values, freq } = resolved;
  const substrate = resolved.stack?.substrate;

  const curve = useImpedanceCurve(
    substrate && freq !== undefined
      ? {
          medium: sheet.medium,
          substrate,
          freq,
          from: substrate.height * 0.05,
          to: substrate.height * (12 / media[sheet.medium].grounds),
          points: 181,
        }
      : undefined,
  );
  const traces = useMemo((): Trace[] => {
    if (!curve.data) return [];
    return [
      {
        id: 'z0',
        label: 'impedance',
        colour: 'trace2',
        kind: { role: 'level', level: 'modelled' },
        x: curve.data.width,
        y: curve.data.z0,
      },
    ];
  }, [curve.data]);
  const guides = useMemo((): Guide[] => {
    if (!substrate || freq === undefined) return [];
    return STANDARD.flatMap((z) => {
      try {
        const w = synthesiseWidth(sheet.medium, substrate, z, freq);
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
  }, [sheet.medium, substrate, freq]);
  const range = useMemo((): [number, number] | undefined => {
    const z = curve.data?.z0;
    if (!z || z.length === 0) return undefined;
    return [0, Math.ceil((z[0] * 1.04) / 20) * 20];
  }, [curve.data]);

  const hold = (face: string, text: string, others: readonly string[]) => {
    const rest = Object.entries(sheet.held).filter(([name]) => !others.includes(name));
    setSheet({ held: { ...Object.fromEntries(rest), [face]: text } }, `change the line\u2019s ${face}`, face);
  };
  const length = values?.length.re;
  const loss = analysis ? analysis.lossConductor + analysis.lossDielectric : 0;
  const narrow = analysis && resolved.stack && analysis.width < resolved.stack.minWidth;
  const warnings = [
    ...(narrow
      ? [
          `This line is narrower than the ${formatQuantity(resolved.stack.minWidth, 'length', { digits: 3 })} the shop etches; a thicker board or a lower impedance widens it.`,
        ]
      : []),
    ...(analysis?.warnings.map((w) => w.message) ?? []),
  ];

  return (
    <Page>
      <Side>
        <Scroll>
          <SectionTitle>Board</SectionTitle>
          <SharedBoard
            shared={usersOf(project, sheet.stack, LINES_PAGE)}
            what="this line"
            onOwn={ownLineBoard}
          />
          <StackForm
            medium={sheet.medium}
            stack={stack}
            stacks={stacks}
            problems={resolved.stackProblems}
            onChoose={chooseLineStack}
          />
        </Scroll>
        <HelpLine idle="Choose a laminate or type its properties, in any unit: 20 mil, 0.5 oz, 5.8e7 S/m." />
      </Side>
      <Side>
        <Scroll>
          <SectionTitle>Line</SectionTitle>
          <MediumChoice
            medium={sheet.medium}
            onChoose={(medium) => setSheet({ medium }, `look at ${medium}`, '')}
          />
          <Frequency>
            <i />
            <span>
              <ScrubLabel
                value={sheet.freq}
                onChange={(f) => setSheet({ freq: f }, 'change the frequency', 'freq')}
              >
                Frequency
              </ScrubLabel>
            </span>
            <QuantityInput
              label="Frequency"
              kind="frequency"
              help="Operating frequency: the electrical length, the dispersion and the losses belong to it."
              value={sheet.freq}
              error={resolved.errors.freq}
              errorElsewhere="line-freq-error"
              onChange={(f) => setSheet({ freq: f }, 'change the frequency', 'freq')}
            />
          </Frequency>
          {resolved.errors.freq && <ErrorText id="line-freq-error">{resolved.errors.freq}</ErrorText>}
          <FaceEditor
            properties={sheetProperties}
            held={sheet.held}
            values={values}
            errors={resolved.errors}
            onHold={hold}
          />
          <Quiet style={{ fontSize: 11 }}>
            A dot marks what you hold; the other of each pair follows. Type into either.
          </Quiet>
          <SectionTitle style={{ marginTop: 6 }}>What it is</SectionTitle>
          {analysis ? (
            <Results>
              <dt>effective permittivity</dt>
              <dd>{formatNumber(analysis.eeff, 4)}</dd>
              <dt>velocity factor</dt>
              <dd>{formatNumber(analysis.velocityFactor, 4)}</dd>
              <dt>guided wavelength</dt>
              <dd>{formatQuantity(analysis.wavelength, 'length')}</dd>
              <dt>width to height</dt>
              <dd>{formatNumber(analysis.width / resolved.stack!.substrate.height, 4)}</dd>
              <dt>loss, conductor</dt>
              <dd>{formatNumber(analysis.lossConductor, 3)} dB/m</dd>
              <dt>loss, dielectric</dt>
              <dd>{formatNumber(analysis.lossDielectric, 3)} dB/m</dd>
              <dt>loss per wavelength</dt>
              <dd>{formatNumber(loss * analysis.wavelength, 3)} dB</dd>
              <dt>loss over this length</dt>
              <dd>
                {length === undefined
                  ? '\u2013'
                  : `${formatNumber(loss * length, 3)} dB = ${formatNumber(analysis.lossConductor * length, 3)} + ${formatNumber(analysis.lossDielectric * length, 3)}`}
              </dd>
              <dt>skin depth</dt>
              <dd>{formatQuantity(analysis.skinDepth, 'length', { digits: 3 })}</dd>
              <dt>first higher-order mode</dt>
              <dd>{formatQuantity(analysis.higherOrderMode, 'frequency', { digits: 3 })}</dd>
            </Results>
          ) : (
            <ErrorText>The line waits for the entries marked above.</ErrorText>
          )}
          {warnings.length > 0 && (
            <Warnings aria-label="Warnings">
              {warnings.map((w) => (
                <li key={w}>{w}</li>
              ))}
            </Warnings>
          )}
          <PrimaryButton
            style={{ alignSelf: 'flex-start', marginTop: 6 }}
            onPress={() => void navigate('../recipes/quarter-wave', { relative: 'path' })}
          >
            Match with this board
          </PrimaryButton>
        </Scroll>
      </Side>
      <Right>
        {substrate ? (
          <CrossSection medium={sheet.medium} substrate={substrate} width={analysis?.width} />
        ) : (
          <div />
        )}
        <Curve>
          <ChartFrame
            title="Impedance over width"
            note={
              freq === undefined
                ? ''
                : `${media[sheet.medium].name.toLowerCase()} at ${formatQuantity(freq, 'frequency')}; drag the mark to choose a width`
            }
            svg={svg}
            columns={() =>
              curve.data
                ? [
                    { name: 'width_m', values: curve.data.width },
                    { name: 'impedance_ohm', values: curve.data.z0 },
                    { name: 'effective_permittivity', values: curve.data.eeff },
                  ]
                : []
            }
          >
            <PlainRectChart
              label="impedance in ohm over width"
              svg={svg}
              traces={traces}
              guides={guides}
              x={{
                label: `width in ${lengthUnit().unit}`,
                scale: 1 / lengthUnit().size,
                log: true,
                format: (w) => formatQuantity(w, 'length'),
              }}
              y={{ label: 'Ω', range, format: (z) => formatQuantity(z, 'impedance') }}
              markers={
                analysis
                  ? [
                      {
                        id: 'here',
                        label: `${formatQuantity(analysis.z0, 'impedance')} at ${formatQuantity(analysis.width, 'length')}`,
                        x: analysis.width,
                      },
                    ]
                  : []
              }
              onMarkerEnd={endMerge}
              onMarkerMove={(_id, w) =>
                hold('width', formatQuantity(w, 'length', { digits: 4, typed: true }), ['z0', 'width'])
              }
              waiting={substrate === undefined || freq === undefined}
            />
          </ChartFrame>
        </Curve>
      </Right>
    </Page>
  );
}
