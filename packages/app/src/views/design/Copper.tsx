import { memo, useMemo, useRef, useState } from 'react';
import { Button, MenuTrigger } from 'react-aria-components';
import styled from 'styled-components';
import type { Layout, PlacedPiece } from '@ditch/core/artwork';
import { pinsAtNode, splitLine } from '@ditch/core/grow';
import { pinsByNode, type Design, type Project, type ResolvedDesign } from '@ditch/core/network';
import { parts } from '@ditch/core/parts';
import { formatQuantity } from '@ditch/core/units';
import { useSize } from '../../charts/size';
import { usePanZoom } from '../../charts/panzoom';
import { Float, Menu, MenuRows, PrimaryButton, Quiet, QuietButton } from '../../controls/basics';
import { focusAfterMenu } from '../../controls/focus';
import { useHandler } from '../../controls/stable';
import { colour } from '../../theme';
import { change } from '../edits';
import { nodeCommands, nodeLabel, pieceCommands } from './growing';
import { Handles } from './Handles';
import { Labels } from './Labels';
import { Outline, PictureBox } from './Picture';
import { Openings, Placed } from './Placed';
import { Planes } from './Planes';
import { fitCamera, roundLength, viewOf, type Camera, type View } from './view';

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
  .node {
    position: absolute;
    z-index: 1;
    top: -10px;
    left: -10px;
    width: 20px;
    height: 20px;
    padding: 0;
    border: 0;
    border-radius: 50%;
    background: transparent;
    cursor: pointer;
  }
  .node i {
    position: absolute;
    inset: 6.5px;
    border: 1px solid ${colour('copperHand')};
    border-radius: 50%;
    background: ${colour('laminate')};
    color: ${colour('waterText')};
    font: 600 13px/14px inherit;
    font-style: normal;
    text-align: center;
    opacity: 0.75;
  }
  .node[data-open] i {
    inset: 2px;
    border: 1.5px dashed ${colour('water')};
    background: ${colour('raised')};
    opacity: 1;
  }
  .node:hover i,
  .node[aria-expanded='true'] i {
    border-style: solid;
    border-color: ${colour('water')};
    background: ${colour('waterSoft')};
    opacity: 1;
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
  const view = useMemo(() => camera && viewOf(camera, size), [camera, size]);

  // One menu for all pins: hundreds of them cost nothing but their buttons.
  const [menu, setMenu] = useState<{ node: string; x: number; y: number; opener: HTMLElement }>();
  const anchor = useRef<HTMLButtonElement>(null);

  // After a growth the keyboard stands at the new open pin.
  const onwards = useHandler((piece: string | undefined, node: string | undefined) => {
    onSelect(piece);
    if (node === undefined) return;
    const place = `[data-node="${CSS.escape(node)}"]`;
    focusAfterMenu(() => box.current?.querySelector<HTMLElement>(place), { passing: anchor.current });
  });

  const zoom = (factor: number, x: number, y: number) => {
    if (!camera) return;
    const scale = Math.min(4e6, Math.max(100, camera.scale / factor));
    const fx = (x - size.width / 2) * (1 / camera.scale - 1 / scale);
    const fy = (y - size.height / 2) * (1 / camera.scale - 1 / scale);
    setCamera({ scale, x: camera.x + fx, y: camera.y - fy });
  };
  const look = usePanZoom<Camera | undefined>({
    svg,
    drawn: size.width > 0 && view !== undefined,
    view: camera,
    setView: setCamera,
    pan: (from, dx, dy) => from && { ...from, x: from.x - dx / from.scale, y: from.y + dy / from.scale },
    zoom,
    // Pieces, pins and grips have presses of their own.
    holds: (event) =>
      camera !== undefined && (event.target as Element).closest('[role]') === event.currentTarget,
    onPress: () => onSelect(undefined),
  });

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
    const list: { node: string; open: boolean; x: number; y: number; angle: number; label: string }[] = [];
    const byNode = pinsByNode(design.pieces);
    const valuesOf = new Map(resolved.pieces.map((p) => [p.id, p.values]));
    const placedOf = new Map(layout.pieces.map((p) => [p.id, p]));
    for (const [node, first] of layout.nodes) {
      const standing = byNode.get(node) ?? [];
      if (standing.length === 0) continue;
      // A junction's arms meet in one point; each is taken hold of where its line begins.
      let at = { ...first, reach: 0 };
      for (const { piece, pin } of standing) {
        const values = valuesOf.get(piece.id);
        const placed = placedOf.get(piece.id)?.pins[pin];
        const reach = (values && parts.get(piece.kind)?.setbacks?.(values, piece.settings ?? {})[pin]) ?? 0;
        if (placed && reach > at.reach) at = { ...placed, reach };
      }
      list.push({
        node,
        open: standing.length === 1,
        x: at.x + at.reach * Math.cos(at.angle),
        y: at.y + at.reach * Math.sin(at.angle),
        angle: at.angle,
        label: nodeLabel(standing),
      });
    }
    return list;
  }, [layout, design, resolved]);
  const openMenu = useHandler((node: string, x: number, y: number, opener: HTMLElement) =>
    setMenu({ node, x, y: y + 10, opener }),
  );
  const resolvedOf = useMemo(() => new Map(resolved.pieces.map((p) => [p.id, p])), [resolved]);
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
          {...look.handlers}
          onDoubleClick={() => setCamera(undefined)}
        >
          <Outline layout={layout} view={view} margin={26} />
          {inOrder.map((placed) => (
            <Placed
              key={placed.id}
              placed={placed}
              name={resolvedOf.get(placed.id)?.name ?? placed.id}
              number={resolvedOf.get(placed.id)?.settings.number}
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
          <Planes planes={resolved.planes} layout={layout} view={view} />
          <ScaleBar view={view} height={size.height} />
        </svg>
      )}
      {view &&
        !dim &&
        nodes.map(({ node, open, angle, label, ...place }) => {
          const [x, y] = [view.sx(place.x), view.sy(place.y)];
          if (x < -20 || y < -20 || x > size.width + 20 || y > size.height + 20) return null;
          // Joined pins that are not at hand stay out of the way until the pointer or the keyboard comes.
          const away = open ? 12 : 0;
          return (
            <NodeButton
              key={node}
              node={node}
              open={open}
              label={label}
              x={x + away * Math.cos(angle)}
              y={y - away * Math.sin(angle)}
              faint={!open && !near.has(node)}
              expanded={menu?.node === node}
              onOpen={openMenu}
            />
          );
        })}
      <MenuTrigger
        isOpen={menu !== undefined}
        onOpenChange={(isOpen) => {
          if (isOpen) return;
          setMenu(undefined);
          // The menu gives the focus back to its own anchor; it belongs to the pin, unless a growth moved on.
          focusAfterMenu(() => menu?.opener, { passing: anchor.current, yielding: true });
        }}
      >
        <Anchor
          ref={anchor}
          excludeFromTabOrder
          aria-label={
            menu ? `at ${nodeLabel(pinsAtNode(design, menu.node))}` : 'where the menu of a pin opens'
          }
          style={{ left: menu?.x ?? 0, top: menu?.y ?? 0 }}
        />
        <Float placement="bottom start">
          <MenuRows commands={() => (menu ? nodeCommands(project, design, menu.node, onwards) : [])} />
        </Float>
      </MenuTrigger>
      {chosen && (
        <Bar role="toolbar" aria-label={`${chosen.name}: commands`}>
          <b>{chosen.name}</b>
          <Menu
            label="Piece ▾"
            ariaLabel={`${chosen.name}: what can be done`}
            commands={commands}
            hang="start"
          />
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

interface NodeButtonProps {
  readonly node: string;
  readonly open: boolean;
  readonly label: string;
  readonly x: number;
  readonly y: number;
  /** Not at hand: out of the way until the pointer or the keyboard comes. */
  readonly faint: boolean;
  readonly expanded: boolean;
  readonly onOpen: (node: string, x: number, y: number, opener: HTMLElement) => void;
}

/** A pin to take hold of; its look stands in the box around all of them. */
const NodeButton = memo(function NodeButton(props: NodeButtonProps) {
  const { node, open, label, x, y, faint, expanded, onOpen } = props;
  return (
    <button
      type="button"
      className="node"
      data-open={open || undefined}
      data-node={node}
      aria-label={`${open ? 'grow at' : 'joint of'} ${label}`}
      aria-haspopup="menu"
      aria-expanded={expanded}
      style={{ transform: `translate(${x}px, ${y}px)`, opacity: faint ? 0.55 : 1 }}
      onClick={(event) => onOpen(node, x, y, event.currentTarget)}
    >
      <i aria-hidden="true">{open ? '+' : ''}</i>
    </button>
  );
});

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
