import { QueryClientProvider } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import styled from 'styled-components';
import {
  resolveSheet,
  SHEET_SHAPES,
  sheetShapes,
  withEntry,
  type LineSheet,
  type Project,
  type SheetEntry,
  type SheetShapeId,
} from '@ditch/core/network';
import { formatQuantity } from '@ditch/core/units';
import { PrimaryButton, Quiet, SectionTitle } from '../../controls/basics';
import { HelpLine } from '../../controls/help';
import { ErrorText, QuantityInput, ScrubLabel } from '../../controls/QuantityInput';
import { Select } from '../../controls/Select';
import { queryClient } from '../../queryClient';
import { edit } from '../../store/session';
import { colour } from '../../theme';
import { chooseLineStack, LINES_PAGE, ownLineBoard, usersOf } from '../edits';
import { FaceEditor, typedValue } from '../FaceEditor';
import { useProject } from '../hooks';
import { MediumChoice } from '../MediumChoice';
import { SharedBoard } from '../SharedBoard';
import { Side, SideScroll } from '../side';
import { StackForm } from '../StackForm';
import { CrossSection } from './CrossSection';
import type { FieldMode } from './Field';
import { LineCurves } from './LineCurves';
import { Results } from './Results';

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
const Row = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
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

/** Faces that are sizes of the copper. */
const DIMENSIONS: readonly string[] = ['width', 'gap', 'slot'];

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
  const { line: sheet, stacks } = project;
  const stack = stacks.find((s) => s.id === sheet.stack)!;
  // The sheet and its stack are all that resolution reads.
  // eslint-disable-next-line react-hooks/exhaustive-deps
  const resolved = useMemo(() => resolveSheet(project), [sheet, stacks]);
  const { analysis, values, shape, system } = resolved;
  const [mode, setMode] = useState<FieldMode>('none');
  const substrate = resolved.stack?.substrate;

  const put = (entry: SheetEntry, label: string, merge: string) =>
    edit(label, (p) => ({ ...p, line: withEntry(p.line, shape.id, entry) }), `line:${shape.id}:${merge}`);
  /** Holds faces and lets others of their properties go. */
  const hold = (faces: Readonly<Record<string, string>>, others: readonly string[], merge: string) => {
    const rest = Object.entries(resolved.held).filter(([name]) => !others.includes(name));
    put(
      { system: system.id, held: { ...Object.fromEntries(rest), ...faces } },
      `change the line\u2019s ${Object.keys(faces).join(' and ')}`,
      merge,
    );
  };
  /** A dimension that is chosen on a picture stays, and so do the others that stand beside it. */
  const chooseDimensions = (chosen: Readonly<Record<string, string>>, merge: string) => {
    const all = system.across.flatMap((p) => p.faces.map((f) => f.name));
    const copper = all.filter((name) => DIMENSIONS.includes(name));
    const faces = Object.fromEntries(
      copper.map((name) => [
        name,
        chosen[name] ??
          resolved.held[name] ??
          formatQuantity(values![name].re, 'length', { digits: 6, typed: true }),
      ]),
    );
    hold(faces, all, merge);
  };
  const chooseShape = (id: string) =>
    edit(
      `look at a ${sheetShapes[id as SheetShapeId].name.toLowerCase()}`,
      (p): Project => {
        const { shape: was, ...rest } = p.line;
        const next = id as SheetShapeId;
        return next === (was ?? 'strip')
          ? p
          : { ...p, line: next === 'strip' ? rest : { ...rest, shape: next } };
      },
      'line:shape',
    );
  /** The same line, asked for in other words. */
  const chooseSystem = (id: string) => {
    const next = shape.systems.find((s) => s.id === id)!;
    const keep = next.across.map((property): [string, string] => {
      const face = property.faces.find((f) => resolved.held[f.name] !== undefined) ?? property.faces[0];
      return [face.name, resolved.held[face.name] ?? typedValue(values?.[face.name], face)];
    });
    const along = Object.entries(resolved.held).filter(([name]) => name === 'theta' || name === 'length');
    put({ system: id, held: Object.fromEntries([...keep, ...along]) }, `ask for ${next.label}`, 'system');
  };
  const limit = resolved.stack?.minWidth;
  const narrow = (what: string, size: number | undefined) =>
    size !== undefined && limit !== undefined && size < limit
      ? [
          `This ${what} is narrower than the ${formatQuantity(limit, 'length', { digits: 3 })} the shop etches; ${what === 'line' ? 'a thicker board or a lower impedance widens it' : 'less coupling widens it'}.`,
        ]
      : [];
  const warnings = [
    ...narrow('line', resolved.dimensions?.[0]),
    ...(shape.id === 'pair' ? narrow('gap', resolved.dimensions?.[1]) : []),
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
            medium={resolved.medium}
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
          <Row>
            <Select
              label="Shape"
              value={shape.id}
              choices={SHEET_SHAPES.map((id) => ({ id, label: sheetShapes[id].name }))}
              onChange={chooseShape}
            />
            {shape.media.length > 1 && (
              <MediumChoice
                medium={sheet.medium}
                onChoose={(medium) => setSheet({ medium }, `look at ${medium}`, '')}
              />
            )}
          </Row>
          {shape.systems.length > 1 && (
            <Select
              label="Asked for as"
              value={system.id}
              choices={shape.systems.map((s) => ({ id: s.id, label: `by ${s.label}` }))}
              onChange={chooseSystem}
            />
          )}
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
            properties={resolved.properties}
            held={resolved.held}
            values={values}
            errors={resolved.errors}
            onHold={(face, text, others) => hold({ [face]: text }, others, face)}
          />
          <Quiet style={{ fontSize: 11 }}>
            A dot marks what you hold; the other of each pair follows. Type into either.
          </Quiet>
          <SectionTitle style={{ marginTop: 6 }}>What it is</SectionTitle>
          {analysis ? (
            <Results resolved={resolved} />
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
          <CrossSection
            shape={shape.id}
            medium={resolved.medium}
            substrate={substrate}
            dimensions={analysis ? resolved.dimensions : undefined}
            mode={shape.id === 'strip' && mode === 'odd' ? 'even' : mode}
            onMode={setMode}
          />
        ) : (
          <div />
        )}
        <Curve>
          <LineCurves
            resolved={resolved}
            onDimension={(face, text) => chooseDimensions({ [face]: text }, face)}
            onPair={(width, gap) => chooseDimensions({ width, gap }, 'map')}
          />
        </Curve>
      </Right>
    </Page>
  );
}
