import { memo, useEffect, useMemo, useRef, useState, type PointerEvent as ReactPointerEvent } from 'react';
import { Button, MenuTrigger } from 'react-aria-components';
import styled from 'styled-components';
import type { Layout, PlacedPiece } from '@ditch/core/artwork';
import { pinsAtNode, splitLine } from '@ditch/core/grow';
import { GROUND, type Design, type Project, type ResolvedDesign } from '@ditch/core/network';
import { parts } from '@ditch/core/parts';
import { formatQuantity } from '@ditch/core/units';
import { useSize } from '../../charts/size';
import { useWheel } from '../../charts/wheel';
import { Float, Menu, MenuRows, PrimaryButton, Quiet, QuietButton } from '../../controls/basics';
import { useHandler } from '../../controls/stable';
import { colour } from '../../theme';
import { change } from '../edits';
import { nodeCommands, nodeLabel, pieceCommands } from './growing';
import { Handles } from './Handles';
import { Outline, PictureBox } from './Picture';
import { fitCamera, pathOf, pointsOf, roundLength, viewOf, type Camera, type View } from './view';

const Box = styled(PictureBox)`
  svg {
    touch-action: none;
  }
  g[role='button'] {
    cursor: pointer;
    outline: none;
  }
  g[role='button']:focus-visible path,
  g[role='button']:focus-visible polygon,
  g[role='button']:focus-visible circle,
  g[role='slider']:focus-visible rect:last-child {
    stroke: ${colour('water')};
    stroke-width: 2.5px;
  }
  g[role='slider'] {
    outline: none;
  }
`;
const Note = styled.div`
  position: absolute;
  inset: 0;
  display: grid;
  place-content: center;
  justify-items: center;
  gap: 10px;
  color: ${colour('quiet')};
  pointer-events: none;
  > * {
    pointer-events: auto;
  }
`;
const Bar = styled.div`
  position: absolute;
  z-index: 2;
  top: 8px;
  left: 12px;
  display: flex;
  align-items: center;
  gap: 2px;
  max-width: calc(100% - 24px);
  b {
    margin: 0 8px 0 2px;
    font-weight: 600;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  button {
    height: 24px;
    padding: 0 8px;
    font-size: 12px;
  }
`;
const NodeButton = styled.button<{ $open: boolean }>`
  position: absolute;
  z-index: 1;
  width: 20px;
  height: 20px;
  margin: -10px 0 0 -10px;
  padding: 0;
  border: 0;
  border-radius: 50%;
  background: transparent;
  cursor: pointer;
  i {
    position: absolute;
    inset: ${({ $open }) => ($open ? '2px' : '6.5px')};
    border: ${({ $open }) => ($open ? `1.5px dashed ${colour('water')}` : `1px solid ${colour('copperHand')}`)};
    border-radius: 50%;
    background: ${({ $open }) => ($open ? colour('raised') : colour('laminate'))};
    color: ${colour('waterText')};
    font: 600 13px/14px inherit;
    font-style: normal;
    text-align: center;
    opacity: ${({ $open }) => ($open ? 1 : 0.75)};
  }
  &:hover i,
  &[aria-expanded='true'] i {
    border-style: solid;
    border-color: ${colour('water')};
    background: ${colour('waterSoft')};
    opacity: 1;
  }
`;

/** Where the menu of the pins hangs while it is open. */
const Anchor = styled(Button)`
  position: absolute;
  width: 1px;
  height: 1px;
  padding: 0;
  border: 0;
  opacity: 0;
  pointer-events: none;
`;

interface CopperProps {
  readonly project: Project;
  readonly design: Design;
  readonly resolved: ResolvedDesign;
  readonly layout: Layout;
  readonly selected?: string;
  readonly hovered?: string;
  readonly onSelect: (id: string | undefined) => void;
  readonly onHover: (id: string | undefined) => void;
  /** The picture belongs to earlier values. */
  readonly dim?: boolean;
}

/** Commands of the piece in hand that a key calls. */
const KEYS: Readonly<Record<string, string>> = {
  Delete: 'remove',
  Backspace: 'remove',
  s: 'split',
  m: 'mirror',
  'Control c': 'copy',
};

/** Room for labels and ports around the copper, px. */
const MARGIN = 50;

/** A camera that follows the copper when it outgrows the picture or other pieces come, and else stays still under the hand. */
function useCamera(layout: Layout, size: { width: number; height: number }) {
  const [own, setOwn] = useState<Camera>();
  const [fitted, setFitted] = useState<{ camera: Camera; key: string }>();
  const key = `${size.width}x${size.height}:${layout.pieces.map((p) => p.id).join()}`;
  const best = fitCamera(layout, size, MARGIN);
  let camera = own ?? fitted?.camera;
  if (best && !own) {
    const view = camera && viewOf(camera, size);
    const { box } = layout;
    const lost =
      !view ||
      view.sx(box.x) < 12 ||
      view.sx(box.x + box.width) > size.width - 12 ||
      view.sy(box.y) > size.height - 12 ||
      view.sy(box.y + box.height) < 12 ||
      best.scale > 1.7 * view.scale;
    if (lost || fitted?.key !== key) {
      camera = best;
      if (fitted?.key !== key || lost) setFitted({ camera: best, key });
    }
  }
  return { camera: best && camera, setCamera: setOwn, free: own !== undefined };
}

/** The artwork of a design, true to scale on its board: what it is grown, pointed at and measured on. */
export const Copper = memo(function Copper(props: CopperProps) {
  const { project, design, resolved, layout, selected, hovered, onSelect, onHover, dim } = props;
  const [box, size] = useSize<HTMLDivElement>();
  const svg = useRef<SVGSVGElement>(null);
  const { camera, setCamera, free } = useCamera(layout, size);
  const view = camera && viewOf(camera, size);
  const pan = useRef<{ x: number; y: number; from: Camera; moved: boolean } | null>(null);

  // One menu for all pins: hundreds of them cost nothing but their buttons.
  const [menu, setMenu] = useState<{ node: string; x: number; y: number; opener: HTMLElement }>();
  const anchor = useRef<HTMLButtonElement>(null);

  // After a growth the keyboard stands at the new open pin, once the menu has given the focus back.
  const [standAt, setStandAt] = useState<{ node: string }>();
  useEffect(() => {
    if (!standAt) return;
    const timer = setTimeout(() => {
      const escaped = CSS.escape(standAt.node);
      box.current?.querySelector<HTMLElement>(`[data-node="${escaped}"]`)?.focus();
    }, 60);
    return () => clearTimeout(timer);
  }, [standAt, box]);
  const onwards = useHandler((piece: string | undefined, node: string | undefined) => {
    onSelect(piece);
    if (node !== undefined) setStandAt({ node });
  });

  useWheel(svg, size.width > 0 && view !== undefined, (factor, x, y) => {
    if (!camera) return;
    const scale = Math.min(4e6, Math.max(100, camera.scale / factor));
    const fx = (x - size.width / 2) * (1 / camera.scale - 1 / scale);
    const fy = (y - size.height / 2) * (1 / camera.scale - 1 / scale);
    setCamera({ scale, x: camera.x + fx, y: camera.y - fy });
  });
  const onPointerDown = (event: ReactPointerEvent<SVGSVGElement>) => {
    if (event.button !== 0 || !camera || (event.target as Element).closest('[role]') !== event.currentTarget)
      return;
    event.currentTarget.setPointerCapture(event.pointerId);
    pan.current = { x: event.clientX, y: event.clientY, from: camera, moved: false };
  };
  const onPointerMove = (event: ReactPointerEvent<SVGSVGElement>) => {
    const p = pan.current;
    if (!p) return;
    const dx = event.clientX - p.x;
    const dy = event.clientY - p.y;
    if (!p.moved && Math.hypot(dx, dy) < 4) return;
    p.moved = true;
    setCamera({ ...p.from, x: p.from.x - dx / p.from.scale, y: p.from.y + dy / p.from.scale });
  };
  const onPointerUp = () => {
    if (pan.current && !pan.current.moved) onSelect(undefined);
    pan.current = null;
  };

  const chosen = design.pieces.find((p) => p.id === selected);
  const chosenResolved = resolved.pieces.find((p) => p.id === selected);
  const chosenPlaced = layout.pieces.find((p) => p.id === selected);
  const commands = () =>
    chosen ? pieceCommands(design, chosen.id, chosenResolved?.values?.length?.re, onwards) : [];
  const act = (key: string): boolean => {
    if (!chosen) return false;
    if (key === 'Escape') {
      onSelect(undefined);
      return true;
    }
    const command = commands().find((c) => c.id === KEYS[key] && !c.disabled);
    command?.run();
    return command !== undefined;
  };

  /** Splits a line where it was pointed at twice. */
  const splitAt = useHandler((placed: PlacedPiece, clientX: number, clientY: number) => {
    const piece = design.pieces.find((p) => p.id === placed.id);
    if (!view || !piece || piece.nodes.length !== 2 || placed.centre.length < 2) return;
    const rect = svg.current!.getBoundingClientRect();
    const share = shareAlong(
      placed.centre.map((p) => ({ x: view.sx(p.x), y: view.sy(p.y) })),
      clientX - rect.left,
      clientY - rect.top,
    );
    const split = change(design, `split ${piece.name}`, (d) => splitLine(d, placed.id, share));
    if (split) onSelect(split.piece);
  });

  const nodes = useMemo(() => {
    const list: { node: string; open: boolean; x: number; y: number; angle: number }[] = [];
    for (const [node, first] of layout.nodes) {
      const standing = node === GROUND ? [] : pinsAtNode(design, node);
      if (standing.length === 0) continue;
      // A junction's arms meet in one point; each is taken hold of where its line begins.
      let at = { ...first, reach: 0 };
      for (const { piece, pin } of standing) {
        const values = resolved.pieces.find((p) => p.id === piece.id)?.values;
        const placed = layout.pieces.find((p) => p.id === piece.id)?.pins[pin];
        const reach = (values && parts.get(piece.kind)?.setbacks?.(values, piece.settings ?? {})[pin]) ?? 0;
        if (placed && reach > at.reach) at = { ...placed, reach };
      }
      list.push({
        node,
        open: standing.length === 1,
        x: at.x + at.reach * Math.cos(at.angle),
        y: at.y + at.reach * Math.sin(at.angle),
        angle: at.angle,
      });
    }
    return list;
  }, [layout, design, resolved]);
  const near = new Set(chosen?.nodes ?? []);
  // What is mounted lies on the copper, and ports are seen over all.
  const rank = (p: PlacedPiece) => (p.kind === 'port' ? 2 : p.copper.length === 0 ? 1 : 0);
  const inOrder = [...layout.pieces].sort((a, b) => rank(a) - rank(b));

  return (
    <Box
      ref={box}
      onKeyDown={(event) => {
        if ((event.target as Element).closest('[role="menu"], input')) return;
        const copy = (event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'c';
        if ((event.ctrlKey || event.metaKey || event.altKey) && !copy) return;
        if (event.key === '0') return setCamera(undefined);
        const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
        if (act(copy ? 'Control c' : key)) event.preventDefault();
      }}
    >
      {view && (
        <svg
          ref={svg}
          width={size.width}
          height={size.height}
          role="group"
          aria-label="copper, to scale"
          opacity={dim ? 0.4 : 1}
          onPointerDown={onPointerDown}
          onPointerMove={onPointerMove}
          onPointerUp={onPointerUp}
          onDoubleClick={() => setCamera(undefined)}
        >
          <Outline layout={layout} view={view} margin={26} />
          {inOrder.map((placed) => (
            <Placed
              key={placed.id}
              placed={placed}
              name={resolved.pieces.find((p) => p.id === placed.id)?.name ?? placed.id}
              number={resolved.pieces.find((p) => p.id === placed.id)?.settings.number}
              view={view}
              chosen={placed.id === selected}
              pointed={placed.id === hovered}
              onSelect={onSelect}
              onHover={onHover}
              onSplit={splitAt}
            />
          ))}
          <Openings layout={layout} view={view} />
          <Labels layout={layout} resolved={resolved} view={view} chosen={selected ?? hovered} />
          {chosen && chosenResolved && chosenPlaced && (
            <Handles
              key={chosen.id}
              design={design.id}
              document={chosen}
              piece={chosenResolved}
              placed={chosenPlaced}
              resolved={resolved}
              view={view}
            />
          )}
          <ScaleBar view={view} height={size.height} />
        </svg>
      )}
      {view &&
        !dim &&
        nodes.map(({ node, open, angle, ...place }) => {
          const [x, y] = [view.sx(place.x), view.sy(place.y)];
          if (x < -20 || y < -20 || x > size.width + 20 || y > size.height + 20) return null;
          // Joined pins that are not at hand stay out of the way until the pointer or the keyboard comes.
          const away = open ? 12 : 0;
          return (
            <NodeButton
              key={node}
              type="button"
              $open={open}
              data-node={node}
              aria-label={`${open ? 'grow at' : 'joint of'} ${nodeLabel(design, node)}`}
              aria-haspopup="menu"
              aria-expanded={menu?.node === node}
              style={{
                left: x + away * Math.cos(angle),
                top: y - away * Math.sin(angle),
                opacity: !open && !near.has(node) ? 0.55 : 1,
              }}
              onClick={(event) => setMenu({ node, x, y: y + 10, opener: event.currentTarget })}
            >
              <i aria-hidden="true">{open ? '+' : ''}</i>
            </NodeButton>
          );
        })}
      <MenuTrigger
        isOpen={menu !== undefined}
        onOpenChange={(isOpen) => {
          if (isOpen) return;
          setMenu(undefined);
          // The menu gives the focus back to its own anchor; it belongs to the pin.
          setTimeout(() => document.activeElement === anchor.current && menu?.opener.focus(), 30);
        }}
      >
        <Anchor
          ref={anchor}
          excludeFromTabOrder
          aria-label={menu ? `at ${nodeLabel(design, menu.node)}` : 'pins'}
          style={{ left: menu?.x ?? 0, top: menu?.y ?? 0 }}
        />
        <Float placement="bottom start">
          <MenuRows commands={() => (menu ? nodeCommands(project, design, menu.node, onwards) : [])} />
        </Float>
      </MenuTrigger>
      {chosen && (
        <Bar role="toolbar" aria-label={`${chosen.name}: commands`}>
          <b>{chosen.name}</b>
          <Menu label="Piece ▾" ariaLabel={`${chosen.name}: what can be done`} commands={commands} />
        </Bar>
      )}
      {free && (
        <Bar style={{ left: 'auto', right: 12 }}>
          <QuietButton onPress={() => setCamera(undefined)}>show all</QuietButton>
        </Bar>
      )}
      {!view && size.width > 0 && (
        <Note>
          {design.pieces.length === 0 ? (
            <>
              <span>A network is grown from its first port, pin by pin.</span>
              <PrimaryButton
                autoFocus
                onPress={() =>
                  nodeCommands(project, design, undefined, onwards)
                    .find((c) => c.id === 'port')
                    ?.run()
                }
              >
                Set the first port
              </PrimaryButton>
              <Menu
                label="or begin with something else ▾"
                ariaLabel="begin with another part"
                commands={() => nodeCommands(project, design, undefined, onwards)}
              />
            </>
          ) : (
            <Quiet>Nothing to draw yet: the ledger says what is missing.</Quiet>
          )}
        </Note>
      )}
    </Box>
  );
});

interface PlacedProps {
  readonly placed: PlacedPiece;
  readonly name: string;
  readonly number: string | undefined;
  readonly view: View;
  readonly chosen: boolean;
  readonly pointed: boolean;
  readonly onSelect: (id: string | undefined) => void;
  readonly onHover: (id: string | undefined) => void;
  readonly onSplit: (placed: PlacedPiece, clientX: number, clientY: number) => void;
}

/** Share of a path's length at which it comes nearest to a place, kept off its very ends. */
function shareAlong(path: readonly { x: number; y: number }[], x: number, y: number): number {
  let run = 0;
  let best = { distance: Infinity, at: 0 };
  for (let i = 1; i < path.length; i++) {
    const [a, b] = [path[i - 1], path[i]];
    const long = Math.hypot(b.x - a.x, b.y - a.y) || 1e-9;
    const t = Math.min(1, Math.max(0, ((x - a.x) * (b.x - a.x) + (y - a.y) * (b.y - a.y)) / (long * long)));
    const distance = Math.hypot(x - a.x - t * (b.x - a.x), y - a.y - t * (b.y - a.y));
    if (distance < best.distance) best = { distance, at: run + t * long };
    run += long;
  }
  return Math.round(Math.min(0.95, Math.max(0.05, best.at / run)) * 1000) / 1000;
}

/** One piece: its copper, its body, its port. */
function Placed({ placed, name, number, view, chosen, pointed, onSelect, onHover, onSplit }: PlacedProps) {
  const here = chosen || pointed;
  const pin = placed.pins[0];
  const copper = colour(here ? 'copperHand' : 'copper');
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={name}
      aria-pressed={chosen}
      onClick={(event) => {
        event.stopPropagation();
        onSelect(placed.id);
      }}
      onKeyDown={(event) => {
        if (event.key !== 'Enter' && event.key !== ' ') return;
        event.preventDefault();
        onSelect(placed.id);
      }}
      onDoubleClick={(event) => {
        event.stopPropagation();
        onSplit(placed, event.clientX, event.clientY);
      }}
      onPointerEnter={() => onHover(placed.id)}
      onPointerLeave={() => onHover(undefined)}
    >
      <path d={pathOf(view, placed.copper)} fill={copper} />
      {chosen && placed.centre.length > 1 && <Planes placed={placed} view={view} />}
      {chosen && placed.centre.length > 1 && (
        <polyline
          points={pointsOf(view, placed.centre)}
          fill="none"
          stroke={colour('raised')}
          strokeWidth={1.2}
          strokeDasharray="5 3 1 3"
        />
      )}
      {placed.body.map((polygon, i) => (
        <polygon
          key={`b${i}`}
          points={pointsOf(view, polygon)}
          fill={colour('raised')}
          stroke={colour(here ? 'water' : 'quiet')}
          strokeWidth={chosen ? 2 : 1.2}
          strokeDasharray={placed.kind === 'load' ? '3 3' : undefined}
        />
      ))}
      {placed.kind === 'port' && (
        <g transform={`translate(${view.sx(pin.x)} ${view.sy(pin.y)})`}>
          <circle r={here ? 7 : 5.5} fill={colour('raised')} stroke={colour('water')} strokeWidth={2} />
          <text
            x={-15 * Math.cos(pin.angle)}
            y={15 * Math.sin(pin.angle)}
            dy="0.35em"
            textAnchor="middle"
            fontSize={12}
            fontWeight={700}
            fill={colour('ink')}
          >
            {number}
          </text>
        </g>
      )}
      {placed.copper.length === 0 && placed.body.length === 0 && placed.kind !== 'port' && (
        <rect
          x={view.sx(pin.x) - 7}
          y={view.sy(pin.y) - 7}
          width={14}
          height={14}
          fill="transparent"
          stroke={here ? colour('water') : 'none'}
          strokeWidth={1.5}
          transform={`rotate(45 ${view.sx(pin.x)} ${view.sy(pin.y)})`}
        />
      )}
    </g>
  );
}

/** The reference planes between which a line's length is measured. */
function Planes({ placed, view }: { placed: PlacedPiece; view: View }) {
  return (
    <g stroke={colour('water')} strokeWidth={1.2} pointerEvents="none">
      {placed.pins.map((pin, i) => {
        const [x, y] = [view.sx(pin.x), view.sy(pin.y)];
        const [nx, ny] = [Math.sin(pin.angle) * 11, Math.cos(pin.angle) * 11];
        return <line key={i} x1={x - nx} y1={y - ny} x2={x + nx} y2={y + ny} />;
      })}
    </g>
  );
}

/** Where rings stay open: the distance between pins that are joined. */
function Openings({ layout, view }: { layout: Layout; view: View }) {
  return (
    <g pointerEvents="none">
      {layout.closures.map((c) => {
        const at = layout.nodes.get(c.node)!;
        const [x, y] = [view.sx(at.x), view.sy(at.y)];
        return (
          <g key={`${c.node}-${c.second}`} stroke={colour('error')} fill="none" strokeWidth={2}>
            <line x1={x} y1={y} x2={x + c.dx * view.scale} y2={y - c.dy * view.scale} strokeDasharray="4 3" />
            <circle cx={x + c.dx * view.scale} cy={y - c.dy * view.scale} r={4} />
            <text x={x + 8} y={y - 8} stroke="none" fill={colour('error')} fontSize={11} fontWeight={600}>
              {formatQuantity(c.span ?? Math.hypot(c.dx, c.dy), 'length', { digits: 3 })}
              {c.span === undefined ? ' open' : ' to bridge'}
            </text>
          </g>
        );
      })}
    </g>
  );
}

function ScaleBar({ view, height }: { view: View; height: number }) {
  const bar = roundLength(Math.max(1e-6, 90 / view.scale));
  return (
    <g
      transform={`translate(16 ${height - 14})`}
      fill={colour('quiet')}
      stroke={colour('quiet')}
      fontSize={11}
      pointerEvents="none"
    >
      <line x2={bar * view.scale} />
      <line y1={-3} y2={3} />
      <line x1={bar * view.scale} x2={bar * view.scale} y1={-3} y2={3} />
      <text x={bar * view.scale + 8} dy="0.32em" stroke="none">
        {formatQuantity(bar, 'length')}
      </text>
    </g>
  );
}

interface LabelProps {
  readonly layout: Layout;
  readonly resolved: ResolvedDesign;
  readonly view: View;
  /** Piece whose label is written in full. */
  readonly chosen: string | undefined;
}

/** Impedance and size beside each line that has room for them, away from the middle of the board. */
function Labels({ layout, resolved, view, chosen }: LabelProps) {
  const { box } = layout;
  const centre = { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  const chain = box.height * view.scale < 60;
  return (
    <g pointerEvents="none" fontSize={11}>
      {layout.pieces.map((placed) => {
        const piece = resolved.pieces.find((p) => p.id === placed.id)!;
        const { values } = piece;
        if (!values) return null;
        const full = placed.id === chosen;
        const definition = parts.get(piece.kind);
        const path = placed.centre;
        const middle = {
          ...(path.length > 2
            ? path[Math.floor(path.length / 2)]
            : path.length === 2
              ? { x: (path[0].x + path[1].x) / 2, y: (path[0].y + path[1].y) / 2 }
              : {
                  x: placed.pins.reduce((sum, p) => sum + p.x, 0) / placed.pins.length,
                  y: placed.pins.reduce((sum, p) => sum + p.y, 0) / placed.pins.length,
                }),
        };
        if (placed.body.length > 0 && placed.pins.length === 1) {
          const corners = placed.body.flat();
          middle.x = corners.reduce((sum, p) => sum + p.x, 0) / corners.length;
          middle.y = corners.reduce((sum, p) => sum + p.y, 0) / corners.length;
        }
        const long = (values.length?.re ?? 0) * view.scale;
        const text: string[] = [];
        if (definition?.carries && values.z0) {
          // Feeds only lead to the ports; what they are is asked for.
          if (!full && (long < 52 || piece.role === 'feed')) return null;
          const width = formatQuantity(values.width.re, 'length', { digits: 3 });
          const length = formatQuantity(values.length.re, 'length', { digits: 3 });
          const z0 = formatQuantity(values.z0.re, 'impedance', { digits: 3 });
          text.push(
            full || (chain && long > 110) ? `${piece.name} \u00B7 ${z0}` : z0,
            full || long > 84 ? `${length} × ${width}` : '',
          );
        } else if (values.r || values.c || values.l) {
          const face = definition!.properties[0].faces[0];
          text.push(
            full ? piece.name : '',
            formatQuantity(values[face.name].re, face.rule.kind, { digits: 3 }),
          );
        } else if (full || piece.kind === 'load') text.push(piece.name, '');
        else return null;
        const tangent =
          path.length > 1
            ? Math.atan2(path[path.length - 1].y - path[0].y, path[path.length - 1].x - path[0].x)
            : placed.pins.length === 2
              ? Math.atan2(placed.pins[1].y - placed.pins[0].y, placed.pins[1].x - placed.pins[0].x)
              : 0;
        let [nx, ny] = [-Math.sin(tangent), Math.cos(tangent)];
        if (nx * (middle.x - centre.x) + ny * (middle.y - centre.y) < -1e-9 || (chain && ny < 0))
          [nx, ny] = [-nx, -ny];
        const extent =
          placed.pins.length === 1 ? placed.body.flat().map((p) => Math.abs(p.y - middle.y)) : [];
        const half = Math.max((values.width?.re ?? 0.8e-3) / 2, ...extent);
        const off = half * view.scale + 10;
        const x = view.sx(middle.x) + nx * off;
        const y = view.sy(middle.y) - ny * off;
        const anchor = nx > 0.35 ? 'start' : nx < -0.35 ? 'end' : 'middle';
        const lines = text.filter((t) => t !== '');
        // Above the copper the last line stands next to it, below it the first.
        const top =
          ny > 0.35 ? y - 13 * (lines.length - 1) : ny < -0.35 ? y + 9 : y - 6.5 * (lines.length - 1) + 4;
        return (
          <text
            key={placed.id}
            textAnchor={anchor}
            fill={colour(full ? 'ink' : 'quiet')}
            stroke={colour('laminate')}
            strokeWidth={3}
            paintOrder="stroke"
            fontWeight={full ? 600 : 400}
          >
            {lines.map((line, i) => (
              <tspan key={line} x={x} y={top + 13 * i}>
                {line}
              </tspan>
            ))}
          </text>
        );
      })}
    </g>
  );
}
