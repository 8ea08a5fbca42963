import {
  useEffect,
  useRef,
  useState,
  type KeyboardEvent,
  type PointerEvent as ReactPointerEvent,
} from 'react';
import styled from 'styled-components';
import type { BoardPlan, Layers, What } from '@ditch/core/making';
import { boxOf } from '@ditch/core/polygons';
import { alone, type Project } from '@ditch/core/network';
import { formatQuantity } from '@ditch/core/units';
import { runApart } from '../../bridge/bridge';
import { useSize } from '../../charts/size';
import { Quiet, QuietButton, Segments } from '../../controls/basics';
import { download, fileName } from '../../controls/files';
import { colour, type ColourName } from '../../theme';
import { useWorked } from '../design/flowing';
import { roundLength } from '../design/view';
import { Empty } from '../Empty';
import { usePreferences } from '../hooks';
import type { Colours, Stand } from './solid';
import { SolidStage } from './solidStage';

const Box = styled.div`
  position: absolute;
  inset: 0;
  overflow: hidden;
  canvas {
    display: block;
    width: 100%;
    height: 100%;
  }
`;
const Picture = styled.div`
  position: absolute;
  inset: 0;
  touch-action: none;
  cursor: grab;
`;
const Bar = styled.div`
  position: absolute;
  top: 8px;
  right: 12px;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: flex-end;
  gap: 8px;
  padding: 2px 8px;
  border-radius: 5px;
  background: ${colour('raised')};
  font-size: 12px;
  button {
    font-size: 12px;
  }
`;
const Foot = styled.div`
  position: absolute;
  left: 16px;
  bottom: 8px;
  font-size: 11px;
  pointer-events: none;
  i {
    display: inline-block;
    height: 7px;
    margin-right: 8px;
    border: solid ${colour('quiet')};
    border-width: 0 1px 1px;
  }
`;

/** How one looks at a board at first: from the front, from above. */
const FIRST = { turn: -0.45, rise: 0.75 };
const NAMES: readonly ColourName[] = ['laminate', 'copper', 'copperHand', 'raised', 'quiet', 'page'];

/** Colours as they are on the page at the moment. */
function coloursNow(): Colours {
  const style = getComputedStyle(document.documentElement);
  return Object.fromEntries(
    NAMES.map((name) => [name, style.getPropertyValue(`--${name}`).trim()]),
  ) as unknown as Colours;
}

interface SolidViewProps {
  readonly project: Project;
  readonly what: What;
  readonly plan: BoardPlan;
  readonly layers: Layers;
}

/** A board as a solid, turned by pointer and keys, at scale. */
export default function SolidView({ project, what, plan, layers }: SolidViewProps) {
  const [box, size] = useSize<HTMLDivElement>();
  const [stage, setStage] = useState<SolidStage>();
  const [refused, setRefused] = useState(false);
  const [drawn, setDrawn] = useState({ triangles: 0, cells: 0 });
  const [stretch, setStretch] = useState('1');
  const [current, setCurrent] = useState(false);
  const [own, setOwn] = useState<Stand>();
  const picture = useRef<HTMLDivElement>(null);
  const name = useRef(plan.name);
  useEffect(() => {
    name.current = plan.name;
  });
  const theme = usePreferences((p) => p.theme);
  const accuracy = usePreferences((p) => p.accuracy);
  const { x1, y1 } = boxOf(plan.board);
  const [wide, high] = [x1 * 1e3, y1 * 1e3];
  const fitted: Stand = {
    ...FIRST,
    at: [wide / 2, high / 2, 0],
    scale: Math.max(
      0.1,
      0.8 * Math.min(size.width / Math.hypot(wide, high), (1.15 * size.height) / Math.hypot(wide, high)),
    ),
  };
  const stand = own ?? fitted;

  useEffect(() => {
    const made = new SolidStage((answer) => {
      if (answer.kind === 'refused') setRefused(true);
      else if (answer.kind === 'built') setDrawn(answer);
      else download(`${fileName(name.current)}-solid.png`, answer.blob);
    });
    picture.current!.prepend(made.canvas);
    setStage(made);
    return () => made.close();
  }, []);

  const design = 'design' in what ? project.designs.find((d) => d.id === what.design) : undefined;
  const flow = useWorked(
    current && design ? JSON.stringify([design, project.stacks, accuracy]) : undefined,
    (signal) =>
      runApart('designFlow', { project: alone(project, design!), design: design!, accuracy }, { signal }),
  );
  const laid = current && !flow.busy ? flow.value : undefined;
  useEffect(() => {
    stage?.ask({
      kind: 'build',
      plan,
      layers,
      colours: coloursNow(),
      stretch: Number(stretch),
      flow: laid,
    });
  }, [stage, plan, layers, stretch, laid, theme]);
  useEffect(() => {
    if (size.width > 0)
      stage?.ask({
        kind: 'draw',
        stand,
        size,
        ratio: globalThis.devicePixelRatio || 1,
        background: coloursNow().page,
      });
  });

  const hand = useRef<{ x: number; y: number; from: Stand; pans: boolean } | null>(null);
  /** Moves what is in the middle by pixels of the picture. */
  const panned = (from: Stand, dx: number, dy: number): Stand => {
    const { turn, rise, scale, at } = from;
    const [right, up] = [-dx / scale, dy / scale / Math.max(0.2, Math.sin(rise))];
    return {
      ...from,
      at: [
        at[0] + right * Math.cos(turn) - up * Math.sin(turn),
        at[1] + right * Math.sin(turn) + up * Math.cos(turn),
        at[2],
      ],
    };
  };
  const turned = (from: Stand, dx: number, dy: number): Stand => ({
    ...from,
    turn: from.turn - dx,
    rise: Math.min(Math.PI / 2, Math.max(0.02, from.rise + dy)),
  });
  const zoomed = (factor: number) =>
    setOwn({ ...stand, scale: Math.min(2000, Math.max(0.5, stand.scale * factor)) });
  const onKey = (event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (way)
      setOwn(
        event.shiftKey
          ? panned(stand, -40 * way[0], -40 * way[1])
          : turned(stand, way[0] * 0.12, -way[1] * 0.12),
      );
    else if (event.key === '+' || event.key === '=') zoomed(1.25);
    else if (event.key === '-') zoomed(0.8);
    else if (event.key === '0') setOwn(undefined);
    else return;
    event.preventDefault();
  };
  const bar = roundLength(90 / stand.scale / 1e3);
  if (refused)
    return (
      <Empty title="This browser draws no solids">
        It has no WebGL, or it is turned off. The flat board shows the same copper.
      </Empty>
    );
  return (
    <Box ref={box}>
      <Picture
        ref={picture}
        role="img"
        aria-label={`board as a solid, ${formatQuantity(layers.height, 'length')} high with ${formatQuantity(layers.thickness, 'length')} of copper: drag or arrows turn it, with Shift they move it, + and - zoom, 0 shows all`}
        data-triangles={drawn.triangles}
        data-current={drawn.cells}
        tabIndex={0}
        onKeyDown={onKey}
        onPointerDown={(event: ReactPointerEvent<HTMLDivElement>) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          hand.current = {
            x: event.clientX,
            y: event.clientY,
            from: stand,
            pans: event.button !== 0 || event.shiftKey,
          };
        }}
        onPointerMove={(event) => {
          const h = hand.current;
          if (!h) return;
          const [dx, dy] = [event.clientX - h.x, event.clientY - h.y];
          setOwn(h.pans ? panned(h.from, dx, dy) : turned(h.from, dx / 160, dy / 160));
        }}
        onPointerUp={() => {
          hand.current = null;
        }}
        onWheel={(event) => zoomed(Math.exp(-event.deltaY * 0.0015))}
        onDoubleClick={() => setOwn(undefined)}
        onContextMenu={(event) => event.preventDefault()}
      />
      <Bar role="toolbar" aria-label="how the solid is seen">
        <Quiet>copper</Quiet>
        <Segments
          label="thickness of the copper"
          value={stretch}
          choices={['1', '5', '20'].map((n) => ({ id: n, label: n === '1' ? 'as it is' : `× ${n}` }))}
          onChange={setStretch}
        />
        {design && (
          <QuietButton aria-pressed={current} onPress={() => setCurrent(!current)}>
            {current ? 'without current' : 'current'}
          </QuietButton>
        )}
        <QuietButton isDisabled={drawn.triangles === 0} onPress={() => stage?.ask({ kind: 'picture' })}>
          picture
        </QuietButton>
        {own && <QuietButton onPress={() => setOwn(undefined)}>show all</QuietButton>}
        {current && (flow.busy || flow.problem) && (
          <span role="status">{flow.problem ?? 'solving the copper…'}</span>
        )}
      </Bar>
      <Foot>
        <i style={{ width: bar * 1e3 * stand.scale }} />
        <Quiet>{formatQuantity(bar, 'length')} across the picture</Quiet>
      </Foot>
    </Box>
  );
}
