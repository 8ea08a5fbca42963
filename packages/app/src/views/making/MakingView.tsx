import { lazy, Suspense, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import styled from 'styled-components';
import { arranged, checkRules, freePlace, rimOf, type Tile, type What } from '@ditch/core/making';
import { boxOf } from '@ditch/core/polygons';
import type { Panel, Project } from '@ditch/core/network';
import { valueOf } from '@ditch/core/units';
import { Quiet, Segments, SectionTitle, TextButton } from '../../controls/basics';
import type { Command } from '../../controls/command';
import { HelpLine } from '../../controls/help';
import { Menu } from '../../controls/Menu';
import { chooseDrawing } from '../../store/library';
import { say } from '../../store/session';
import { colour } from '../../theme';
import { boardFiles } from '../boardFiles';
import { Empty } from '../Empty';
import { exportBoard } from '../exportBoard';
import { useProject } from '../hooks';
import { Side, SideScroll } from '../side';
import { Canvas } from './Canvas';
import {
  addPanel,
  changePanel,
  changePlaced,
  copyPanel,
  MOST_PANELS,
  lengthShown,
  lengthText,
  putDesign,
  removePanel,
  takeOff,
  turnPlaced,
} from './panelEdits';
import { PanelForm } from './PanelForm';
import { ShopForm } from './ShopForm';
import { keyOf, madeOnce, useMade } from './useMade';

const SolidView = lazy(() => import('./SolidView'));

const Page = styled.div`
  display: grid;
  grid-template-columns: 340px minmax(0, 1fr);
  grid-template-rows: minmax(0, 1fr);
  height: 100%;
`;
const Part = styled.section`
  padding: 12px 16px;
  border-bottom: 1px solid ${colour('rule')};
`;
const List = styled.ul`
  margin-top: 4px;
  button {
    display: flex;
    justify-content: space-between;
    gap: 8px;
    width: 100%;
    padding: 4px 8px;
    border: 0;
    border-left: 3px solid transparent;
    background: none;
    text-align: left;
    cursor: pointer;
  }
  button[aria-pressed='true'] {
    border-left-color: ${colour('water')};
    background: ${colour('waterSoft')};
  }
`;
const Main = styled.div`
  display: grid;
  grid-template-rows: auto minmax(0, 1fr) auto;
  min-width: 0;
  min-height: 0;
`;
const Head = styled.div`
  display: flex;
  align-items: center;
  gap: 12px;
  height: 40px;
  padding: 0 12px;
  border-bottom: 1px solid ${colour('rule')};
  background: ${colour('raised')};
  h2 {
    font-size: 14px;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
`;
const Findings = styled.div`
  max-height: 190px;
  overflow: auto;
  border-top: 1px solid ${colour('rule')};
  background: ${colour('raised')};
  padding: 6px 0;
  font-size: 12px;
  > p,
  > h2 {
    padding: 2px 16px;
  }
  button {
    display: grid;
    grid-template-columns: 22px 150px minmax(0, 1fr) minmax(0, 1fr);
    gap: 10px;
    width: 100%;
    padding: 4px 16px;
    border: 0;
    background: none;
    text-align: left;
    cursor: pointer;
  }
  button[aria-pressed='true'] {
    background: ${colour('waterSoft')};
  }
  b {
    font-weight: 600;
  }
`;

/** No board is larger, m. */
const LARGEST = 2;

/** Which board the address means: a panel or a design of the project; else the first there is. */
function whatOf(project: Project, id: string | undefined): What | undefined {
  const panels = project.panels ?? [];
  if (panels.some((p) => p.id === id)) return { panel: id! };
  if (project.designs.some((d) => d.id === id)) return { design: id! };
  if (panels.length > 0) return { panel: panels[0].id };
  return project.designs.length > 0 ? { design: project.designs[0].id } : undefined;
}

/** A tile where the document has it by now, which may be ahead of what is worked out; undefined of one that was taken off. */
function placedNow(panel: Panel | undefined, tile: Tile): Tile | undefined {
  const placed = panel?.placed.find((p) => p.id === tile.id);
  return placed && { ...tile, x: valueOf(placed.x) ?? tile.x, y: valueOf(placed.y) ?? tile.y };
}

/** Puts a design on a panel where there is room, beside what is there. */
async function put(project: Project, panel: Panel, design: string, tiles: readonly Tile[]): Promise<void> {
  const own = project.designs.find((d) => d.id === design)!;
  const margin = valueOf(panel.margin) ?? 3e-3;
  const what: What = { design };
  const { plan, problems } = await madeOnce(project, what);
  if (!plan) return say(`${own.name} cannot be put on it: ${problems[0]?.message ?? 'it has no copper'}.`);
  const { x1, y1 } = boxOf(plan.board);
  // Room around the tiles that stand there, as much as the margin.
  const wide = tiles.map((t) => ({
    ...t,
    x: t.x - margin,
    y: t.y - margin,
    width: t.width + 2 * margin,
    height: t.height + 2 * margin,
  }));
  const at = freePlace({ id: '', name: '', x: margin, y: margin, width: x1, height: y1 }, wide);
  putDesign(panel.id, design, own.name, Math.max(at.x, margin), Math.max(at.y, margin));
}

function arrange(panel: Panel, tiles: readonly Tile[]): void {
  const margin = valueOf(panel.margin) ?? 3e-3;
  const places = arranged(tiles, margin, valueOf(panel.width));
  changePanel(panel.id, 'arrange the panel', (p) => ({
    ...p,
    placed: p.placed.map((one) => {
      const tile = tiles.find((t) => t.id === one.id);
      const at = tile && places.get(tile);
      return at ? { ...one, x: lengthText(at.x), y: lengthText(at.y) } : one;
    }),
  }));
}

/** Takes the rim of a board from a drawing. */
async function importRim(panel: Panel): Promise<void> {
  const read = await chooseDrawing();
  if (!read) return;
  const outline = rimOf(read.drawing);
  const { x1, y1 } = boxOf(outline);
  if (Math.max(x1, y1) > LARGEST)
    return say(
      `${read.name} was not taken: its rim is ${lengthShown(x1)} by ${lengthShown(y1)}; are its units right?`,
    );
  changePanel(panel.id, `take the rim from ${read.name}`, (p) => ({ ...p, outline }));
}

/** Making: designs and panels as boards, checked against a shop, measured, written. */
export default function MakingView() {
  const project = useProject();
  const params = useParams();
  const navigate = useNavigate();
  const what = whatOf(project, params.what);
  const { answer, key, late, failed } = useMade(project, what);
  const [chosen, setChosen] = useState<{ key: string; index: number }>();
  const [look, setLook] = useState('flat');
  if (!what)
    return (
      <Empty title="Nothing to make yet">
        A design by a recipe, or one that is grown, can be made here: alone, or with others on one panel.
      </Empty>
    );
  const panel = 'panel' in what ? project.panels?.find((p) => p.id === what.panel) : undefined;
  const own = keyOf(what);
  const known = key === own ? answer : undefined;
  const plan = known?.plan;
  const tiles = (known?.tiles ?? []).flatMap((t) => placedNow(panel, t) ?? []);
  const findings = known?.findings ?? [];
  const problems = known?.problems ?? [];
  const name = panel?.name ?? project.designs.find((d) => 'design' in what && d.id === what.design)?.name;
  const open = (id: string) => void navigate(`/p/${project.id}/making/${id}`);
  const [width, height] = [panel?.width, panel?.height].map((text) => (text ? valueOf(text) : undefined));
  const room = width && height ? { width, height } : undefined;
  const placedName = (id: string) => tiles.find((t) => t.id === id)?.name ?? 'it';
  const files = (): Command[] => [
    ...boardFiles
      .filter((f) => !f.alone)
      .map(({ id, label, note }) => ({
        id,
        label,
        note,
        group: 'Board',
        disabled: !plan || problems.length > 0,
        run: () => void exportBoard(what, id),
      })),
    {
      id: 'png',
      label: 'Picture',
      note: 'PNG',
      group: 'Picture',
      disabled: !plan,
      run: () => void import('./picture').then((m) => plan && m.saveBoardPng(plan)),
    },
  ];
  return (
    <Page>
      <Side>
        <SideScroll>
          <Part aria-label="Boards">
            <SectionTitle>
              Panels
              <TextButton
                isDisabled={(project.panels?.length ?? 0) >= MOST_PANELS}
                onPress={() => open(addPanel(project))}
              >
                new panel
              </TextButton>
            </SectionTitle>
            <List>
              {project.panels?.map((p) => (
                <li key={p.id}>
                  <button
                    type="button"
                    aria-pressed={own === keyOf({ panel: p.id })}
                    onClick={() => open(p.id)}
                  >
                    {p.name}
                    <Quiet>
                      {p.placed.length} {p.placed.length === 1 ? 'design' : 'designs'}
                    </Quiet>
                  </button>
                </li>
              ))}
              {!project.panels?.length && (
                <li>
                  <Quiet>A panel is several designs made as one board.</Quiet>
                </li>
              )}
            </List>
            <SectionTitle style={{ marginTop: 10 }}>Designs by themselves</SectionTitle>
            <List>
              {project.designs.map((d) => (
                <li key={d.id}>
                  <button
                    type="button"
                    aria-pressed={own === keyOf({ design: d.id })}
                    onClick={() => open(d.id)}
                  >
                    {d.name}
                  </button>
                </li>
              ))}
            </List>
          </Part>
          {panel && (
            <PanelForm
              key={panel.id}
              project={project}
              panel={panel}
              problems={problems}
              tiles={tiles}
              onPut={(design) => void put(project, panel, design, tiles)}
              onArrange={() => arrange(panel, tiles)}
              onRim={() => void importRim(panel)}
              onCopy={() => open(copyPanel(panel))}
              onRemove={() => {
                removePanel(panel);
                void navigate(`/p/${project.id}/making`);
              }}
            />
          )}
          <ShopForm project={project} what={what} />
        </SideScroll>
        <HelpLine idle="A board is checked as it is drawn; files are widened by what the shop etches away." />
      </Side>
      <Main>
        <Head>
          <h2>{name}</h2>
          {plan && (
            <Quiet>
              {lengthShown(boxOf(plan.board).x1)} × {lengthShown(boxOf(plan.board).y1)}
            </Quiet>
          )}
          <span style={{ flex: 1 }} />
          <span style={{ display: 'inline-flex' }}>
            <Segments
              label="how the board is seen"
              value={look}
              choices={[
                { id: 'flat', label: 'flat' },
                { id: 'solid', label: 'solid' },
              ]}
              onChange={setLook}
            />
          </span>
          <Menu label="Files ▾" commands={files} />
        </Head>
        <div style={{ minHeight: 0, position: 'relative' }}>
          {plan && known && look === 'flat' && (
            <Canvas
              key={own}
              plan={plan}
              tiles={tiles}
              drawn={known.tiles}
              findings={findings}
              chosen={chosen?.key === own ? chosen.index : undefined}
              late={late}
              room={room}
              onChoose={(index) => setChosen(index === undefined ? undefined : { key: own, index })}
              onMove={(tile, x, y, step) =>
                panel &&
                changePlaced(
                  panel.id,
                  tile.id,
                  `move ${tile.name}`,
                  { x: lengthText(x), y: lengthText(y) },
                  step ? `move:${tile.id}` : '',
                )
              }
              onTurn={(tile) => {
                const placed = panel?.placed.find((p) => p.id === tile.id);
                if (panel && placed) turnPlaced(panel.id, placed, tile.name);
              }}
              onTakeOff={(tile) => panel && takeOff(panel.id, tile.id, tile.name)}
            />
          )}
          {plan && known?.layers && look === 'solid' && (
            <Suspense fallback={<Empty title="Loading…" />}>
              <SolidView key={own} project={project} what={what} plan={plan} layers={known.layers} />
            </Suspense>
          )}
          {!plan && (
            <Empty title={known || failed ? 'It cannot be made so' : 'Working it out…'}>
              {failed ??
                problems.map((p) => `${p.placed ? `${placedName(p.placed)}: ` : ''}${p.message}`).join('; ')}
              {known && problems.length === 0 && 'There is no copper.'}
            </Empty>
          )}
        </div>
        <Findings role="region" aria-label="Checks" tabIndex={0}>
          <SectionTitle>
            Checks
            <Quiet>
              {known?.shop
                ? ''
                : findings.length === 0
                  ? ''
                  : `${findings.length} ${findings.length === 1 ? 'finding' : 'findings'}`}
            </Quiet>
          </SectionTitle>
          {known?.shop && (
            <p style={{ color: colour('error') }}>The shop\u2019s limits cannot be read: {known.shop}.</p>
          )}
          {problems.map((p, i) => (
            <p key={i} style={{ color: colour('error') }}>
              {p.placed ? `${placedName(p.placed)} ` : ''}
              {p.message}.
            </p>
          ))}
          {plan && !known?.shop && findings.length === 0 && (
            <p>
              <Quiet>Nothing to say: {checkRules.map((r) => r.label).join(', ')} were looked for.</Quiet>
            </p>
          )}
          {findings.map((f, i) => (
            <button
              key={i}
              type="button"
              aria-pressed={chosen?.key === own && chosen.index === i}
              onClick={() => setChosen({ key: own, index: i })}
            >
              <span>{i + 1}</span>
              <b>{checkRules.find((r) => r.id === f.rule)?.label}</b>
              <span>{f.text}</span>
              <Quiet>{f.remedy}</Quiet>
            </button>
          ))}
        </Findings>
      </Main>
    </Page>
  );
}
