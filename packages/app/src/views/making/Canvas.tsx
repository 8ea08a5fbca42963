import {
  memo,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type PointerEvent as ReactPointerEvent,
} from 'react';
import styled from 'styled-components';
import { freePlace, type BoardPlan, type Finding, type Tile } from '@ditch/core/making';
import { boxOf, type Point, type Ring } from '@ditch/core/polygons';
import { formatQuantity } from '@ditch/core/units';
import { usePanZoom } from '../../charts/panzoom';
import { useSize } from '../../charts/size';
import { QuietButton } from '../../controls/basics';
import { colour } from '../../theme';
import { PictureBox } from '../design/Picture';
import { ScaleMark } from '../design/ScaleMark';
import type { Camera } from '../design/view';
import { measured, MeasureLayer, readingOf, type Measuring } from './Measuring';

const Box = styled(PictureBox)`
  background: ${colour('page')};
  svg {
    touch-action: none;
  }
  g[role='button'],
  g[role='group'] {
    outline: none;
  }
  g.tile {
    cursor: grab;
  }
  g.tile rect {
    fill: transparent;
    stroke: ${colour('ruleStrong')};
    stroke-dasharray: 3 3;
  }
  g.tile:hover rect,
  g.tile:focus-visible rect {
    stroke: ${colour('water')};
    stroke-width: 2px;
    stroke-dasharray: none;
  }
  g.finding {
    cursor: pointer;
  }
  g.finding:focus-visible circle {
    stroke-width: 4px;
  }
`;
const Bar = styled.div`
  position: absolute;
  z-index: 2;
  top: 8px;
  right: 12px;
  display: flex;
  align-items: center;
  gap: 2px;
  button {
    height: 24px;
    padding: 0 8px;
    font-size: 12px;
  }
  button[aria-pressed='true'] {
    background: ${colour('chosen')};
    font-weight: 600;
  }
`;
const Reading = styled.output`
  position: absolute;
  z-index: 2;
  left: 12px;
  top: 8px;
  max-width: calc(100% - 220px);
  padding: 3px 9px;
  border: 1px solid ${colour('rule')};
  border-radius: 4px;
  background: ${colour('raised')};
  font-size: 12px;
`;

/** Places that a hand drags to are whole tenths of this, m. */
const GRID = 1e-4;
const MARGIN = 46;
/** Ways that the arrow keys lead, y up. */
const WAYS: Readonly<Record<string, readonly [number, number] | undefined>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};
/** Pixels from which a spot is caught. */
const REACH = 9;

/** Outlines as one path in millimetres; holes turn the other way round. */
const pathOf = (rings: readonly Ring[]): string =>
  rings
    .map((ring) => `M${ring.map(([x, y]) => `${(x * 1e3).toFixed(4)} ${(y * 1e3).toFixed(4)}`).join('L')}Z`)
    .join('');

interface CanvasProps {
  readonly plan: BoardPlan;
  /** Designs where they are by now. */
  readonly tiles: readonly Tile[];
  /** The same where the plan has them. */
  readonly drawn: readonly Tile[];
  readonly findings: readonly Finding[];
  readonly chosen: number | undefined;
  readonly late: boolean;
  /** Size of the board where it is given, m. */
  readonly room: { readonly width: number; readonly height: number } | undefined;
  readonly onChoose: (finding: number | undefined) => void;
  /** @param step one of several by keys, which are one move */
  readonly onMove: (tile: Tile, x: number, y: number, step: boolean) => void;
  readonly onTurn: (tile: Tile) => void;
  readonly onTakeOff: (tile: Tile) => void;
}

/** Copper that stands still: drawn again only when it changes. */
const Copper = memo(function Copper({ rings }: { rings: readonly Ring[] }) {
  const d = useMemo(() => pathOf(rings), [rings]);
  return <path className="copper" d={d} fill={colour('copper')} fillRule="evenodd" />;
});

/** A board true to scale: looked at, arranged, measured. */
export function Canvas(props: CanvasProps) {
  const { plan, tiles, drawn, findings, chosen, late, room, onChoose, onMove, onTurn, onTakeOff } = props;
  const [box, size] = useSize<HTMLDivElement>();
  const svg = useRef<SVGSVGElement>(null);
  const [own, setOwn] = useState<Camera>();
  const [drag, setDrag] = useState<{ id: string; dx: number; dy: number }>();
  const hand = useRef<{ x: number; y: number; tile: Tile } | null>(null);
  const [measuring, setMeasuring] = useState<Measuring>();
  const [pointed, setPointed] = useState<Point>();
  const { x1: wide, y1: high } = boxOf(plan.board);
  const fitted: Camera = {
    x: wide / 2,
    y: high / 2,
    scale: Math.max(1, Math.min((size.width - 2 * MARGIN) / wide, (size.height - 2 * MARGIN) / high)),
  };
  // A finding that is chosen is looked at closely.
  const [seen, setSeen] = useState<number>();
  if (chosen !== seen) {
    setSeen(chosen);
    const at = chosen === undefined ? undefined : findings[chosen]?.at;
    if (at) setOwn({ x: at[0], y: at[1], scale: Math.max(fitted.scale, 6e4) });
  }
  const camera = own ?? fitted;
  const { scale } = camera;
  const sx = (x: number) => size.width / 2 + (x - camera.x) * scale;
  const sy = (y: number) => size.height / 2 - (y - camera.y) * scale;
  const boardAt = (clientX: number, clientY: number): Point => {
    const rect = svg.current!.getBoundingClientRect();
    return [
      camera.x + (clientX - rect.left - size.width / 2) / scale,
      camera.y - (clientY - rect.top - size.height / 2) / scale,
    ];
  };
  const reach = REACH / scale;
  const zoom = (factor: number, x = size.width / 2, y = size.height / 2) => {
    const next = Math.min(4e6, Math.max(200, scale / factor));
    setOwn({
      scale: next,
      x: camera.x + (x - size.width / 2) * (1 / scale - 1 / next),
      y: camera.y - (y - size.height / 2) * (1 / scale - 1 / next),
    });
  };
  const look = usePanZoom<Camera>({
    svg,
    drawn: size.width > 0,
    view: () => camera,
    setView: setOwn,
    pan: (from, dx, dy) => ({ ...from, x: from.x - dx / from.scale, y: from.y + dy / from.scale }),
    zoom,
    holds: (event) =>
      measuring !== undefined || (event.target as Element).closest('[role]') === event.currentTarget,
    onPoint: (event) => measuring && setPointed(boardAt(event.clientX, event.clientY)),
    onPress: () => {
      if (measuring && pointed) setMeasuring(measured(plan, measuring, pointed, reach));
      else onChoose(undefined);
    },
  });

  const moves = {
    down: (event: ReactPointerEvent, tile: Tile) => {
      if (event.button !== 0 || measuring) return;
      event.currentTarget.setPointerCapture(event.pointerId);
      hand.current = { x: event.clientX, y: event.clientY, tile };
    },
    move: (event: ReactPointerEvent) => {
      const h = hand.current;
      if (!h) return;
      const wished = (v: number, by: number) => Math.round((v + by) / GRID) * GRID;
      const at = freePlace(
        {
          ...h.tile,
          x: wished(h.tile.x, (event.clientX - h.x) / scale),
          y: wished(h.tile.y, (h.y - event.clientY) / scale),
        },
        tiles,
        room,
      );
      setDrag({ id: h.tile.id, dx: at.x - h.tile.x, dy: at.y - h.tile.y });
    },
    up: () => {
      const h = hand.current;
      hand.current = null;
      if (h && drag && (drag.dx !== 0 || drag.dy !== 0))
        onMove(h.tile, h.tile.x + drag.dx, h.tile.y + drag.dy, false);
      setDrag(undefined);
    },
  };
  const keyOn = (event: KeyboardEvent, tile: Tile) => {
    const step = event.shiftKey ? 1e-4 : 1e-3;
    const way = WAYS[event.key];
    if (way) {
      const at = { ...tile, x: tile.x + way[0] * step, y: tile.y + way[1] * step };
      const free = freePlace(at, tiles, room);
      // It is pushed along its way, never aside.
      if (Math.abs(free.x - at.x) + Math.abs(free.y - at.y) < 1e-9) onMove(tile, free.x, free.y, true);
    } else if (event.key === 't') onTurn(tile);
    else if (event.key === 'Delete' || event.key === 'Backspace') onTakeOff(tile);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const keyOnBoard = (event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === '0') setOwn(undefined);
    else if (event.key === '+' || event.key === '=') zoom(1 / 1.3);
    else if (event.key === '-') zoom(1.3);
    else if (event.key === 'm') setMeasuring(measuring ? undefined : {});
    else if (measuring && event.key === 'Escape') setMeasuring(measuring.first ? {} : undefined);
    else if (measuring && event.key.startsWith('Arrow')) {
      const step = (event.shiftKey ? 1 : 10) / scale;
      const [x, y] = pointed ?? [camera.x, camera.y];
      const way = WAYS[event.key];
      if (way) setPointed([x + way[0] * step, y + way[1] * step]);
    } else if (measuring && event.key === 'Enter') {
      if (pointed) setMeasuring(measured(plan, measuring, pointed, reach));
    } else if (event.key.startsWith('Arrow')) {
      const step = 40 / scale;
      const way = WAYS[event.key];
      if (way) setOwn({ ...camera, x: camera.x + way[0] * step, y: camera.y + way[1] * step });
    } else return;
    event.preventDefault();
  };

  const placedCopper = useMemo(() => new Set(drawn.flatMap((t) => t.copper ?? [])), [drawn]);
  const rest = useMemo(
    () => [...plan.outlines.filter((r) => !placedCopper.has(r)), ...plan.letters],
    [plan, placedCopper],
  );
  const mm = scale * 1e-3;
  const place = `translate(${size.width / 2 - camera.x * scale} ${size.height / 2 + camera.y * scale}) scale(${mm} ${-mm})`;
  /** What is not worked out yet stands where it goes. */
  const shift = (tile: Tile): string => {
    const was = drawn.find((t) => t.id === tile.id) ?? tile;
    return was.x === tile.x && was.y === tile.y
      ? ''
      : `translate(${(tile.x - was.x) * scale} ${(was.y - tile.y) * scale}) `;
  };
  const reading = measuring && readingOf(plan, measuring, pointed, reach);

  return (
    <Box ref={box}>
      {size.width > 0 && (
        <svg
          ref={svg}
          width={size.width}
          height={size.height}
          role="group"
          aria-label="board, to scale"
          // What is measured or looked at by keys is told to the board itself.
          tabIndex={0}
          onKeyDown={keyOnBoard}
          opacity={late ? 0.6 : 1}
          style={measuring ? { cursor: 'crosshair' } : undefined}
          {...look.handlers}
          onDoubleClick={() => setOwn(undefined)}
        >
          <g transform={place}>
            <path
              className="board"
              d={pathOf([plan.board])}
              fill={colour('laminate')}
              stroke={colour('ruleStrong')}
              vectorEffect="non-scaling-stroke"
            />
            <Copper rings={rest} />
          </g>
          {tiles.map((tile, i) => {
            const moved = drag?.id === tile.id ? drag : undefined;
            return (
              <g
                key={tile.id}
                className="tile"
                role="button"
                tabIndex={0}
                aria-label={`${tile.name} at ${formatQuantity(tile.x, 'length')}, ${formatQuantity(tile.y, 'length')}: arrows move it, t turns it, Delete takes it off`}
                data-tile={i}
                transform={moved && `translate(${moved.dx * scale} ${-moved.dy * scale})`}
                pointerEvents={measuring ? 'none' : undefined}
                onPointerDown={(event) => moves.down(event, tile)}
                onPointerMove={moves.move}
                onPointerUp={moves.up}
                onPointerCancel={() => {
                  hand.current = null;
                  setDrag(undefined);
                }}
                onKeyDown={(event) => keyOn(event, tile)}
              >
                <g transform={`${shift(tile)}${place}`}>
                  <Copper rings={tile.copper ?? []} />
                </g>
                <rect
                  x={sx(tile.x)}
                  y={sy(tile.y + tile.height)}
                  width={tile.width * scale}
                  height={tile.height * scale}
                />
              </g>
            );
          })}
          <g pointerEvents="none" data-holes={plan.holes.length}>
            {plan.holes.map((h, i) => (
              <circle
                key={i}
                cx={sx(h.x)}
                cy={sy(h.y)}
                r={Math.max(0.7, (h.diameter / 2) * scale)}
                fill={colour('page')}
                stroke={colour('copperHand')}
              />
            ))}
            {plan.mounted.map((m, i) => (
              <polygon
                key={i}
                points={m.outline.map(([x, y]) => `${sx(x)},${sy(y)}`).join(' ')}
                fill={colour('raised')}
                stroke={colour('quiet')}
              />
            ))}
            {plan.words.map((w, i) => (
              <text
                key={i}
                x={sx(w.x)}
                y={sy(w.y)}
                fontSize={Math.max(7, w.height * scale * 1.2)}
                fill={colour('quiet')}
              >
                {w.text}
              </text>
            ))}
            {plan.ports.map((p, i) => (
              <circle
                key={i}
                cx={sx(p.x)}
                cy={sy(p.y)}
                r={3}
                fill={colour('raised')}
                stroke={colour('water')}
                strokeWidth={1.3}
              />
            ))}
          </g>
          {findings.map((f, i) => (
            <g
              key={i}
              className="finding"
              role="button"
              tabIndex={0}
              aria-label={`finding ${i + 1}: ${f.text}`}
              aria-pressed={chosen === i}
              onClick={() => onChoose(i)}
              onKeyDown={(event) => {
                if (event.key !== 'Enter' && event.key !== ' ') return;
                event.preventDefault();
                event.stopPropagation();
                onChoose(i);
              }}
            >
              {f.to && (
                <line
                  x1={sx(f.at[0])}
                  y1={sy(f.at[1])}
                  x2={sx(f.to[0])}
                  y2={sy(f.to[1])}
                  stroke={colour('error')}
                  strokeWidth={2}
                />
              )}
              <circle
                cx={sx(f.at[0])}
                cy={sy(f.at[1])}
                r={chosen === i ? 12 : 8}
                fill="transparent"
                stroke={colour('error')}
                strokeWidth={chosen === i ? 3 : 2}
              />
            </g>
          ))}
          {measuring && (
            <MeasureLayer plan={plan} measuring={measuring} pointed={pointed} reach={reach} sx={sx} sy={sy} />
          )}
          <ScaleMark scale={scale} height={size.height} />
        </svg>
      )}
      {reading && <Reading aria-live="polite">{reading}</Reading>}
      <Bar role="toolbar" aria-label="what the hand does on the board">
        <QuietButton
          aria-pressed={measuring !== undefined}
          onPress={() => setMeasuring(measuring ? undefined : {})}
        >
          measure
        </QuietButton>
        {own && <QuietButton onPress={() => setOwn(undefined)}>show all</QuietButton>}
      </Bar>
    </Box>
  );
}
