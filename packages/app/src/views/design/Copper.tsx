import { lazy, memo, Suspense, useMemo, useRef, useState } from 'react';
import styled from 'styled-components';
import { signal } from '@preact/signals-core';
import type { PlacedPiece } from '@ditch/core/artwork';
import { pinsAtNode, splitLine } from '@ditch/core/grow';
import { pinsByNode } from '@ditch/core/network';
import { parts } from '@ditch/core/parts';
import { useSize } from '../../charts/size';
import { usePanZoom } from '../../charts/panzoom';
import { PrimaryButton, Quiet, QuietButton } from '../../controls/basics';
import type { MenuFocus } from '../../controls/command';
import { Menu, Opening } from '../../controls/Menu';
import { focusAfterMenu } from '../../controls/focus';
import { useHandler } from '../../controls/stable';
import { circlePath, tenth } from '../../charts/path';
import { derived, useDerived, useDrawn, useLive, useRested, type Live } from '../../live';
import { colour } from '../../theme';
import { change } from '../edits';
import { nodeCommands, nodeLabel, pieceCommands } from './growing';
import { Labels } from './Labels';
import { Outline, PictureBox } from './Picture';
import { boardOf, type Artwork } from './pictures';
import type { Solved } from './solving';
import { Openings, Placed, type LayerProps, type PlacedShape } from './Placed';
import { Planes } from './Planes';
import { ScaleMark } from './ScaleMark';
import { fitCamera, viewOf, type Camera, type View } from './view';

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
  /* Mixed, not translucent: an opacity of its own is a layer to put together at every step. */
  .joints {
    --shown: 41%;
    fill: color-mix(in srgb, ${colour('laminate')} var(--shown), transparent);
    stroke: color-mix(in srgb, ${colour('copperHand')} var(--shown), transparent);
    pointer-events: none;
  }
  .joints[data-near] {
    --shown: 75%;
  }
  .node i {
    position: absolute;
    inset: 6.5px;
    border-radius: 50%;
    color: ${colour('waterText')};
    font: 600 13px/14px inherit;
    font-style: normal;
    text-align: center;
  }
  .node[data-open] i {
    inset: 2px;
    border: 1.5px dashed ${colour('water')};
    background: ${colour('raised')};
  }
  .node:hover i,
  .node[aria-expanded='true'] i {
    border: 1px solid ${colour('water')};
    background: ${colour('waterSoft')};
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
const Looks = styled(Bar)`
  top: auto;
  bottom: 8px;
  left: auto;
  right: 12px;
  button[aria-pressed='true'] {
    background: ${colour('chosen')};
    font-weight: 600;
  }
`;

// Of a piece in hand; fetched ahead once the page is at rest.
const Corners = lazy(() => import('./Corners').then((m) => ({ default: m.Corners })));
const Handles = lazy(() => import('./Handles').then((m) => ({ default: m.Handles })));
const PortPlanes = lazy(() => import('./PortPlanes').then((m) => ({ default: m.PortPlanes })));
const MeshLook = lazy(() => import('./Looks').then((m) => ({ default: m.MeshLook })));
const CurrentLook = lazy(() => import('./Looks').then((m) => ({ default: m.CurrentLook })));

/** What is laid over the copper, in the order in which a key goes through them. */
const LOOKS = ['copper', 'mesh', 'current'] as const;
type Look = (typeof LOOKS)[number];

interface CopperProps {
  readonly solved: Live<Solved>;
  readonly artwork: Live<Artwork>;
  readonly selected?: string;
  readonly hovered?: string;
  readonly onSelect: (id: string | undefined) => void;
  readonly onHover: (id: string | undefined) => void;
}

/** Commands of the piece in hand that a key calls. */
const KEYS: Readonly<Record<string, string>> = {
  Delete: 'remove',
  Backspace: 'remove',
  s: 'split',
  m: 'mirror',
  'Control c': 'copy',
};

/** Room for labels and ports around the copper, px, and for controls below it as much as above. */
const MARGIN = 50;
const CONTROLS = 44;

interface Size {
  readonly width: number;
  readonly height: number;
}

/** A camera that follows the copper when it outgrows the picture or other pieces come, and else stays still under the hand. */
function cameraOf(
  artwork: Live<Artwork>,
  own: Live<Camera | undefined>,
  size: Size,
): Live<Camera | undefined> {
  let fitted: { readonly camera: Camera; readonly ids: string } | undefined;
  return derived(() => {
    const { layout } = artwork.value;
    const { box } = boardOf(artwork.value);
    const best = fitCamera({ ...layout, box }, size, MARGIN);
    if (!best || own.value) return best && own.value;
    const ids = layout.pieces.map((p) => p.id).join();
    const view = fitted && viewOf(fitted.camera, size);
    const lost =
      !view ||
      view.sx(box.x) < 12 ||
      view.sx(box.x + box.width) > size.width - 12 ||
      view.sy(box.y) > size.height - 12 ||
      view.sy(box.y + box.height) < 12 ||
      best.scale > 1.7 * view.scale;
    if (lost || fitted?.ids !== ids) fitted = { camera: best, ids };
    return fitted.camera;
  }, Object.is);
}

/** The pins that stand together, by node, with what is to be said of them. */
function standingOf(pieces: Artwork['design']['pieces']) {
  return new Map(
    [...pinsByNode(pieces)].map(([node, pins]) => [node, { pins, label: nodeLabel(pins) }] as const),
  );
}

/** Where they stand. */
function nodesOf({ resolved, layout }: Artwork, standing: ReturnType<typeof standingOf>) {
  const list: { node: string; open: boolean; x: number; y: number; angle: number; label: string }[] = [];
  const valuesOf = new Map(resolved.pieces.map((p) => [p.id, p.values]));
  const placedOf = new Map(layout.pieces.map((p) => [p.id, p]));
  for (const [node, first] of layout.nodes) {
    const here = standing.get(node);
    if (!here) continue;
    // A junction's arms meet in one point; each is taken hold of where its line begins.
    let at = { ...first, reach: 0 };
    for (const { piece, pin } of here.pins) {
      const values = valuesOf.get(piece.id);
      const placed = placedOf.get(piece.id)?.pins[pin];
      const reach = (values && parts.get(piece.kind)?.setbacks?.(values, piece.settings ?? {})[pin]) ?? 0;
      if (placed && reach > at.reach) at = { ...placed, reach };
    }
    list.push({
      node,
      open: here.pins.length === 1,
      x: at.x + at.reach * Math.cos(at.angle),
      y: at.y + at.reach * Math.sin(at.angle),
      angle: at.angle,
      label: here.label,
    });
  }
  return list;
}

/** Where the buttons of the pins stand on the screen. */
function spotsOf(nodes: ReturnType<typeof nodesOf>, view: View, size: Size): ReadonlyMap<string, Spot> {
  return new Map(
    nodes.map(({ node, open, angle, ...place }) => {
      const [x, y] = [view.sx(place.x), view.sy(place.y)];
      // Joined pins that are not at hand stay out of the way until the pointer or the keyboard comes.
      const away = open ? 12 : 0;
      const outside = x < -20 || y < -20 || x > size.width + 20 || y > size.height + 20;
      return [
        node,
        { x: tenth(x + away * Math.cos(angle)), y: tenth(y - away * Math.sin(angle)), outside, open },
      ];
    }),
  );
}

// What is mounted lies on the copper, and ports are seen over all.
const rank = (p: PlacedPiece) => (p.kind === 'port' ? 2 : p.copper.length === 0 ? 1 : 0);

/** What the picture consists of, whatever its size. */
function shapeOf(
  { resolved, layout, design, dim }: Artwork,
  nodes: ReturnType<typeof nodesOf>,
  seen: boolean,
) {
  const named = new Map(resolved.pieces.map((p) => [p.id, p]));
  return {
    seen,
    dim,
    empty: design.pieces.length === 0,
    pieces: [...layout.pieces]
      .sort((a, b) => rank(a) - rank(b))
      .map(({ id, kind, copper, body, centre }): PlacedShape => ({
        id,
        kind,
        name: named.get(id)?.name ?? id,
        number: named.get(id)?.settings.number,
        copper: copper.length === 0 ? 'none' : copper.length === 1 ? 'one' : 'several',
        bodies: body.length,
        line: centre.length > 1,
      })),
    nodes: nodes.map(({ node, open, label }) => ({ node, open, label })),
  };
}

/** The artwork of a design, true to scale on its board: what it is grown, pointed at and measured on. */
export const Copper = memo(function Copper(props: CopperProps) {
  const { artwork, solved, selected, hovered, onSelect, onHover } = props;
  const [laid, setLaid] = useState<Look>('copper');
  const [box, size] = useSize<HTMLDivElement>();
  const svg = useRef<SVGSVGElement>(null);
  const [own] = useState(() => signal<Camera | undefined>(undefined));
  const free = useLive(useDerived(() => own.value !== undefined, [own]));
  // What is laid over the copper brings controls of its own, which stand at its foot.
  const room = laid === 'copper' ? 0 : CONTROLS;
  const camera = useMemo(
    () => cameraOf(artwork, own, { width: size.width, height: size.height - room }),
    [artwork, own, size, room],
  );
  const view = useDerived(() => camera.value && viewOf(camera.value, size), [camera, size], Object.is);
  const setCamera = useHandler((next: Camera | undefined) => {
    own.value = next;
  });
  const pieces = useDerived(() => artwork.value.design.pieces, [artwork], Object.is);
  const standing = useDerived(() => standingOf(pieces.value), [pieces], Object.is);
  const nodes = useDerived(() => nodesOf(artwork.value, standing.value), [artwork, standing], Object.is);
  const spots = useDerived(
    () => (view.value ? spotsOf(nodes.value, view.value, size) : new Map<string, Spot>()),
    [nodes, view, size],
    Object.is,
  );
  const places = useDerived(
    () => new Map(artwork.value.layout.pieces.map((p) => [p.id, p])),
    [artwork],
    Object.is,
  );
  const [buttons, placeButtons] = useRested(spots, REST);
  const shape = useLive(
    useDerived(() => shapeOf(artwork.value, nodes.value, view.value !== undefined), [artwork, nodes, view]),
  );
  const growing = (node: string | undefined) => {
    const { project, design } = artwork.peek();
    return nodeCommands(project, design, node, onwards);
  };

  // One menu for all pins: hundreds of them cost nothing but their buttons.
  const [menu, setMenu] = useState<{ node: string; opener: HTMLElement; focus: MenuFocus }>();

  /** The button whose menu was opened last. */
  const opener = useRef<HTMLElement>(null);
  // After a growth the keyboard stands at the new open pin.
  const onwards = useHandler((piece: string | undefined, node: string | undefined) => {
    onSelect(piece);
    if (node === undefined) return;
    const place = `[data-node="${CSS.escape(node)}"]`;
    focusAfterMenu(() => box.current?.querySelector<HTMLElement>(place), { passing: opener.current });
  });

  const zoom = (factor: number, x: number, y: number) => {
    const from = camera.peek();
    if (!from) return;
    const scale = Math.min(4e6, Math.max(100, from.scale / factor));
    const fx = (x - size.width / 2) * (1 / from.scale - 1 / scale);
    const fy = (y - size.height / 2) * (1 / from.scale - 1 / scale);
    setCamera({ scale, x: from.x + fx, y: from.y - fy });
  };
  const look = usePanZoom<Camera | undefined>({
    svg,
    drawn: size.width > 0 && shape.seen,
    view: () => camera.peek(),
    setView: setCamera,
    pan: (from, dx, dy) => from && { ...from, x: from.x - dx / from.scale, y: from.y + dy / from.scale },
    zoom,
    // Pieces, pins and grips have presses of their own.
    holds: (event) =>
      camera.peek() !== undefined && (event.target as Element).closest('[role]') === event.currentTarget,
    onPress: () => onSelect(undefined),
  });

  const chosen = useLive(
    useDerived(
      () => artwork.value.design.pieces.find((p) => p.id === selected),
      [artwork, selected],
      Object.is,
    ),
  );
  const commands = () => {
    const { design, resolved } = artwork.peek();
    const length = resolved.pieces.find((p) => p.id === chosen?.id)?.values?.length?.re;
    return chosen ? pieceCommands(design, chosen.id, length, onwards) : [];
  };
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
  const splitAt = useHandler((id: string, clientX: number, clientY: number) => {
    const { design } = artwork.peek();
    const piece = design.pieces.find((p) => p.id === id);
    const [placed, seen] = [places.peek().get(id), view.peek()];
    if (!seen || !placed || !piece || piece.nodes.length !== 2 || placed.centre.length < 2) return;
    const rect = svg.current!.getBoundingClientRect();
    const share = shareAlong(
      placed.centre.map((p) => ({ x: seen.sx(p.x), y: seen.sy(p.y) })),
      clientX - rect.left,
      clientY - rect.top,
    );
    const split = change(design, `split ${piece.name}`, (d) => splitLine(d, id, share));
    if (split) onSelect(split.piece);
  });

  const openMenu = useHandler((node: string, button: HTMLElement, focus: MenuFocus) => {
    opener.current = button;
    setMenu({ node, opener: button, focus });
  });
  const near = new Set(chosen?.nodes ?? []);

  return (
    <Box
      ref={box}
      onPointerEnter={placeButtons}
      onFocus={placeButtons}
      onKeyDown={(event) => {
        if ((event.target as Element).closest('[role="menu"], input')) return;
        const copy = (event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'c';
        if ((event.ctrlKey || event.metaKey || event.altKey) && !copy) return;
        if (event.key === '0') return setCamera(undefined);
        if (event.key === 'l') return setLaid(LOOKS[(LOOKS.indexOf(laid) + 1) % LOOKS.length]);
        const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
        if (act(copy ? 'Control c' : key)) event.preventDefault();
      }}
    >
      {shape.seen && (
        <svg
          ref={svg}
          width={size.width}
          height={size.height}
          role="group"
          aria-label="copper, to scale"
          opacity={shape.dim ? 0.4 : 1}
          {...look.handlers}
          onDoubleClick={() => setCamera(undefined)}
        >
          <Ground artwork={artwork} view={view} />
          {shape.pieces.map((piece) => (
            <Placed
              key={piece.id}
              shape={piece}
              places={places}
              view={view}
              chosen={piece.id === selected}
              pointed={piece.id === hovered}
              onSelect={onSelect}
              onHover={onHover}
              onSplit={splitAt}
            />
          ))}
          <Openings artwork={artwork} view={view} />
          <Labels artwork={artwork} view={view} chosen={selected ?? hovered} />
          {chosen && (
            <Suspense>
              {parts.get(chosen.kind)?.outlined ? (
                <Corners key={chosen.id} artwork={artwork} document={chosen} view={view} />
              ) : (
                <Handles key={chosen.id} artwork={artwork} document={chosen} view={view} />
              )}
            </Suspense>
          )}
          <Joints spots={spots} of={(node) => !near.has(node)} />
          {near.size > 0 && <Joints spots={spots} of={(node) => near.has(node)} near />}
          <Planes artwork={artwork} view={view} />
          <Suspense>
            <PortPlanes artwork={artwork} view={view} chosen={chosen} />
          </Suspense>
          <ScaleBar view={view} height={size.height} />
        </svg>
      )}
      {shape.seen && !shape.dim && laid !== 'copper' && (
        <Suspense>
          {laid === 'mesh' ? (
            <MeshLook artwork={artwork} solved={solved} view={view} size={size} />
          ) : (
            <CurrentLook artwork={artwork} solved={solved} view={view} size={size} />
          )}
        </Suspense>
      )}
      {shape.seen && (
        <Looks role="toolbar" aria-label="what lies over the copper">
          {LOOKS.map((look) => (
            <QuietButton key={look} aria-pressed={laid === look} onPress={() => setLaid(look)}>
              {look}
            </QuietButton>
          ))}
        </Looks>
      )}
      {shape.seen &&
        !shape.dim &&
        shape.nodes.map(({ node, open, label }) => (
          <NodeButton
            key={node}
            node={node}
            open={open}
            label={label}
            spots={buttons}
            now={spots}
            expanded={menu?.node === node}
            onOpen={openMenu}
          />
        ))}
      {menu && (
        <Opening
          key={menu.node}
          from={menu.opener}
          label={`at ${nodeLabel(pinsAtNode(artwork.peek().design, menu.node))}`}
          focus={menu.focus}
          hang="start"
          commands={() => growing(menu.node)}
          onClose={() => setMenu(undefined)}
        />
      )}
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
      {!shape.seen && size.width > 0 && (
        <Note>
          {shape.empty ? (
            <>
              <span>A network is grown from its first port, pin by pin.</span>
              <PrimaryButton
                autoFocus
                onPress={() =>
                  growing(undefined)
                    .find((c) => c.id === 'port')
                    ?.run()
                }
              >
                Set the first port
              </PrimaryButton>
              <Menu
                label="or begin with something else ▾"
                ariaLabel="begin with another part"
                commands={() => growing(undefined)}
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

/** Where the button of a pin stands, px. */
interface Spot {
  readonly x: number;
  readonly y: number;
  readonly outside: boolean;
  readonly open: boolean;
}

/**
 * Milliseconds of rest after which the buttons of the joints follow what is drawn of them, if the hand does not come to them
 * before: a place for each, at every step, has the whole page put together anew.
 */
const REST = 600;

interface JointsProps {
  readonly spots: Live<ReadonlyMap<string, Spot>>;
  readonly of: (node: string) => boolean;
  /** They are at hand. */
  readonly near?: boolean;
}

/** Joints, all in one drawing. */
function Joints({ spots, of, near }: JointsProps) {
  const path = useRef<SVGPathElement>(null);
  useDrawn(() => {
    let d = '';
    for (const [node, { x, y, outside, open }] of spots.value)
      if (!outside && !open && of(node)) d += circlePath(x, y, 3);
    path.current!.setAttribute('d', d);
  });
  return <path ref={path} className="joints" data-near={near} data-screen-only aria-hidden="true" />;
}

interface NodeButtonProps {
  readonly node: string;
  readonly open: boolean;
  readonly label: string;
  readonly spots: Live<ReadonlyMap<string, Spot>>;
  /** Where it stands where that is not known yet. */
  readonly now: Live<ReadonlyMap<string, Spot>>;
  readonly expanded: boolean;
  readonly onOpen: (node: string, opener: HTMLElement, focus: MenuFocus) => void;
}

/** A pin to take hold of; its look stands in the box around all of them. */
const NodeButton = memo(function NodeButton(props: NodeButtonProps) {
  const { node, open, label, spots, now, expanded, onOpen } = props;
  const button = useRef<HTMLButtonElement>(null);
  const placed = useRef('');
  useDrawn(() => {
    // What can grow is drawn by its button itself.
    const spot = open ? now.value.get(node) : (spots.value.get(node) ?? now.peek().get(node));
    const hidden = !spot || spot.outside;
    if (button.current!.hidden !== hidden) button.current!.hidden = hidden;
    const place = spot && `translate(${spot.x}px, ${spot.y}px)`;
    // What is written is worked out again even where it says the same.
    if (!place || place === placed.current) return;
    placed.current = place;
    button.current!.style.transform = place;
  });
  return (
    <button
      ref={button}
      type="button"
      className="node"
      data-open={open || undefined}
      data-node={node}
      aria-label={`${open ? 'grow at' : 'joint of'} ${label}`}
      aria-haspopup="menu"
      aria-expanded={expanded}
      onClick={(event) => onOpen(node, event.currentTarget, true)}
      onKeyDown={(event) => {
        if (event.key !== 'Enter' && event.key !== ' ' && event.key !== 'ArrowDown') return;
        event.preventDefault();
        onOpen(node, event.currentTarget, 'first');
      }}
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

const Ground = memo(function Ground({ artwork, view }: LayerProps) {
  const at = useLive(view);
  const { box, walled } = useLive(useDerived(() => boardOf(artwork.value), [artwork]));
  return at && <Outline box={box} view={at} {...(walled ? { walled } : { margin: 26 })} />;
});

const ScaleBar = memo(function ScaleBar({
  view: live,
  height,
}: Pick<LayerProps, 'view'> & { height: number }) {
  const view = useLive(live);
  return view ? <ScaleMark scale={view.scale} height={height} /> : null;
});
