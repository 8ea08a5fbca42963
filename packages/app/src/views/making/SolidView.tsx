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
import { SolidBoard, type Colours, type Stand } from './solid';

const Box = styled.div`
  position: absolute;
  inset: 0;
  overflow: hidden;
  canvas {
    display: block;
    width: 100%;
    height: 100%;
    touch-action: none;
    cursor: grab;
  }
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
  const canvas = useRef<HTMLCanvasElement>(null);
  const [solid, setSolid] = useState<SolidBoard>();
  const [refused, setRefused] = useState(false);
  const [stretch, setStretch] = useState('1');
  const [current, setCurrent] = useState(false);
  const [own, setOwn] = useState<Stand>();
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
    let made: SolidBoard | undefined;
    try {
      made = new SolidBoard(canvas.current!);
      setSolid(made);
    } catch {
      setRefused(true);
    }
    return () => made?.dispose();
  }, []);

  const design = 'design' in what ? project.designs.find((d) => d.id === what.design) : undefined;
  const flow = useWorked(
    current && design ? JSON.stringify([design, project.stacks, accuracy]) : undefined,
    (signal) =>
      runApart('designFlow', { project: alone(project, design!), design: design!, accuracy }, { signal }),
  );
  const laid = current && !flow.busy ? flow.value : undefined;
  // A board built anew is drawn anew, also where it has as many triangles as before.
  const [{ triangles }, setBuilt] = useState({ triangles: 0 });
  useEffect(() => {
    let late = false;
    void solid
      ?.build(plan, layers, coloursNow(), Number(stretch), laid)
      .then((count) => !late && count !== undefined && setBuilt({ triangles: count }));
    return () => {
      late = true;
    };
  }, [solid, plan, layers, stretch, laid, theme]);
  useEffect(() => {
    if (solid && size.width > 0 && triangles > 0) solid.draw(stand, size, coloursNow().page);
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
      <canvas
        ref={canvas}
        role="img"
        aria-label={`board as a solid, ${formatQuantity(layers.height, 'length')} high with ${formatQuantity(layers.thickness, 'length')} of copper: drag or arrows turn it, with Shift they move it, + and - zoom, 0 shows all`}
        data-triangles={triangles}
        data-current={laid ? laid.first.length - 1 : 0}
        tabIndex={0}
        onKeyDown={onKey}
        onPointerDown={(event: ReactPointerEvent<HTMLCanvasElement>) => {
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
        <QuietButton
          onPress={() =>
            canvas.current?.toBlob(
              (blob) => blob && download(`${fileName(plan.name)}-solid.png`, blob),
              'image/png',
            )
          }
        >
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
