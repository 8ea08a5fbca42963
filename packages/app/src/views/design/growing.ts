import { layOut, SAME_PLACE } from '@ditch/core/artwork';
import {
  clipBranch,
  clipOf,
  beyond,
  foldLine,
  grow,
  joinNodes,
  launchAll,
  mirrorPieces,
  openNodes,
  paste,
  pinsAtNode,
  removePiece,
  replaceBy,
  separatePin,
  splitLine,
  withoutLaunches,
  type Grown,
} from '@ditch/core/grow';
import {
  circuitOf,
  dataFinder,
  networkOf,
  newId,
  resolveDesign,
  solveNetwork,
  type DataBlock,
  type Design,
  type Piece,
  type PinAt,
  type Plot,
  type Project,
} from '@ditch/core/network';
import { parts, type PartDefinition } from '@ditch/core/parts';
import { rolesOf } from '@ditch/core/plots';
import { faceKey, keepAttempt, movable, passageOf } from '@ditch/core/studies';
import { formatNumber, formatQuantity } from '@ditch/core/units';
import type { Command } from '../../controls/command';
import { say, useSession } from '../../store/session';
import { change, setFree, setPlots, markPiece } from '../edits';
import { plotsOf } from './plots';
import { pinLabel } from './reading';
import { keepClip, useClip } from './clip';

const GROUPS: Readonly<Record<PartDefinition['group'], string>> = {
  line: 'Lines',
  stub: 'Stubs',
  junction: 'Junctions',
  end: 'Ends',
  mounted: 'Mounted parts',
  other: 'Ports and data',
};

/** Where the hand goes after a change: the piece to select and the node to stand at. */
export type Onwards = (piece: string | undefined, node: string | undefined) => void;

/** Everything that can be grown, in groups; imported data by name. */
function growth(data: readonly DataBlock[], make: (variant: string, block?: DataBlock) => void): Command[] {
  const order = Object.keys(GROUPS);
  return [...parts.values()]
    .sort((a, b) => order.indexOf(a.group) - order.indexOf(b.group))
    .flatMap((part) =>
      part.variants.flatMap((variant): Command[] =>
        variant.seldom
          ? []
          : part.asks === 'data'
            ? data.map((block) => ({
                id: `${variant.id}:${block.id}`,
                group: GROUPS[part.group],
                label: block.name,
                note: block.ports === 1 ? '1 port' : `${block.ports} ports`,
                run: () => make(variant.id, block),
              }))
            : [
                {
                  id: variant.id,
                  group: GROUPS[part.group],
                  label: variant.label,
                  run: () => make(variant.id),
                },
              ],
      ),
    );
}

/** What launches cost at the design frequency, in words. */
function launchWords(project: Project, before: Design, after: Design): string {
  const [was, is] = [before, after].map((d) => passageOf(project, d));
  const level = (x: number) => `${formatNumber(x, 3)} dB`;
  const cost =
    was && is
      ? ` At f0 the match goes from ${level(was.match)} to ${level(is.match)}${was.through !== undefined && is.through !== undefined ? `, the loss to the strongest port from ${level(-was.through)} to ${level(-is.through)}` : ''}.`
      : '';
  return `Launches stand at all ports.${cost} The design without them is kept as an attempt, to be drawn beside it.`;
}

/** A node in words: the pins that stand there. */
export function nodeLabel(standing: readonly PinAt<Piece>[]): string {
  return standing.map(({ piece, pin }) => pinLabel(piece, pin)).join(' and ');
}

/** What can be done at a node. */
export function nodeCommands(
  project: Project,
  design: Design,
  node: string | undefined,
  onwards: Onwards,
): Command[] {
  const standing = node === undefined ? [] : pinsAtNode(design, node);
  const open = standing.length === 1;
  const make = (variant: string, block?: DataBlock) => {
    const name = block?.name ?? variant.replace(/-/g, ' ');
    const grown = change(design, `grow ${name}`, (d): Grown => grow(d, node, variant, block));
    if (grown) onwards(grown.piece, grown.node);
  };
  const commands = growth(project.data, make);
  const { clip, name } = useClip.getState();
  const special: Command[] = [];
  if (clip && (open || node === undefined))
    for (const mirrored of [false, true])
      special.push({
        id: mirrored ? 'paste-mirrored' : 'paste',
        group: 'Here',
        label: `Paste \u201C${name}\u201D${mirrored ? ', mirrored' : ''}`,
        run: () => {
          const pasted = change(design, `paste ${name}`, (d) => paste(d, clip, node, mirrored));
          if (pasted) onwards(pasted.pieces[0], undefined);
        },
      });
  if (open && node !== undefined) {
    const places = layOut(resolveDesign(project, design)).nodes;
    const here = places.get(node);
    for (const other of openNodes(design)) {
      if (other === node) continue;
      const there = places.get(other);
      const apart = here && there ? Math.hypot(there.x - here.x, there.y - here.y) : undefined;
      special.push({
        id: `join-${other}`,
        group: 'Here',
        label: `Join to ${nodeLabel(pinsAtNode(design, other))}`,
        note:
          apart === undefined
            ? ''
            : apart < SAME_PLACE
              ? 'meets'
              : `${formatQuantity(apart, 'length', { digits: 3 })} apart`,
        run: () => {
          const joined = change(design, 'join two pins', (d) => ({ design: joinNodes(d, node, other) }));
          if (joined) onwards(undefined, node);
        },
      });
    }
  }
  if (!open && node !== undefined)
    for (const { piece, pin } of standing)
      special.push({
        id: `apart-${piece.id}-${pin}`,
        group: 'Here',
        label: `Take ${piece.name} off`,
        note: 'leaves both open',
        run: () => {
          const apart = change(design, `take ${piece.name} off`, (d) => ({
            design: separatePin(d, piece.id, pin),
          }));
          if (apart) onwards(piece.id, node);
        },
      });
  for (const { piece, pin } of standing) {
    if (piece.kind === 'port') continue;
    special.push({
      id: `look-${piece.id}-${pin}`,
      group: 'Smith chart',
      label: `Look into ${piece.name} from here`,
      run: () => lookFrom(project, design, { piece: piece.id, pin }),
    });
  }
  if (design.plots?.some((p) => p.look))
    special.push({
      id: 'look-port',
      group: 'Smith chart',
      label: 'Look from port 1 again',
      run: () => lookFrom(project, design, undefined),
    });
  return [...special, ...commands];
}

/** Lets the first Smith chart look from a pin; where there is none, one is added. */
function lookFrom(project: Project, design: Design, look: Plot['look']): void {
  const plots = [...(design.plots ?? usual(project, design))];
  let at = plots.findIndex((p) => p.show === 'smith');
  if (at < 0) at = plots.push({ id: newId(), show: 'smith' }) - 1;
  plots[at] = { ...plots[at], look };
  setPlots(design.id, look ? 'look from another plane' : 'look from port 1', plots);
}

/** The plots that suit the ports of a design that nobody has arranged yet. */
function usual(project: Project, design: Design): readonly Plot[] {
  const resolved = resolveDesign(project, design);
  const circuit = circuitOf(resolved, 'ideal');
  if (!circuit) return [];
  const ideal = solveNetwork(networkOf(circuit, dataFinder(project.data)), Float64Array.of(circuit.f0));
  return plotsOf(design, rolesOf(ideal, circuit.f0));
}

/** What a piece holds, to be put on the tuning strip or taken off it. */
function freeCommands(design: Design, piece: Piece): Command[] {
  const faces = parts.get(piece.kind)!.properties.flatMap((p) => p.faces);
  return Object.keys(piece.held).flatMap((name) => {
    const face = faces.find((f) => f.name === name);
    if (!face) return [];
    const key = faceKey(design, piece, name);
    const on = design.strip?.includes(key) ?? false;
    const what = face.label.toLowerCase();
    return [
      {
        id: `free-${name}`,
        label: on ? `Take its ${what} off the tuning strip` : `Put its ${what} on the tuning strip`,
        note: piece.held[name].length > 14 ? '' : piece.held[name],
        run: () => setFree(design.id, key, !on),
      },
    ];
  });
}

/** What can be done with a piece. */
export function pieceCommands(
  design: Design,
  id: string,
  length: number | undefined,
  onwards: Onwards,
): Command[] {
  const piece = design.pieces.find((p) => p.id === id);
  const definition = piece && parts.get(piece.kind);
  if (!piece || !definition) return [];
  const { name } = piece;
  const line = definition.line !== undefined && piece.nodes.length === 2;
  const stays = !movable(piece);
  const commands: Command[] = [];
  if (line)
    commands.push(
      {
        id: 'split',
        label: 'Split in the middle',
        note: 'S',
        run: () => {
          const split = change(design, `split ${name}`, (d) => splitLine(d, id, 0.5));
          if (split) onwards(split.piece, undefined);
        },
      },
      {
        id: 'fold',
        label: 'Fold sideways',
        note: length === undefined ? '' : `keeps ${formatQuantity(length, 'length', { digits: 3 })}`,
        disabled: piece.held.turn !== undefined || piece.held.radius !== undefined,
        run: () => {
          const folded = change(design, `fold ${name}`, (d) => foldLine(d, id));
          if (folded) onwards(id, undefined);
        },
      },
    );
  commands.push(
    {
      id: 'mirror',
      label: 'Mirror',
      note: 'M',
      disabled: definition.mirrored === undefined,
      run: () => {
        change(design, `mirror ${name}`, (d) => ({ design: mirrorPieces(d, [id]) }));
      },
    },
    {
      id: 'mirror-branch',
      label: 'Mirror it and what lies beyond',
      disabled: piece.nodes.length < 2,
      run: () => {
        change(design, `mirror the branch of ${name}`, (d) => ({
          design: mirrorPieces(
            d,
            clipBranch(d, id).pieces.map((p) => p.id),
          ),
        }));
      },
    },
    {
      id: 'copy',
      label: 'Copy',
      note: 'Ctrl C',
      run: () => {
        keepClip(clipOf(design, [id], piece.nodes[0]), name);
        say(`${name} is copied. Open pins of any design offer to paste it.`);
      },
    },
    {
      id: 'copy-branch',
      label: 'Copy it and what lies beyond',
      disabled: piece.nodes.length < 2 || beyond(design, id, piece.nodes.length - 1).length === 0,
      run: () => {
        keepClip(clipBranch(design, id), `${name} and beyond`);
        say(`${name} and what lies beyond are copied. Open pins of any design offer to paste them.`);
      },
    },
    ...freeCommands(design, piece),
    {
      id: 'retune',
      label: stays ? 'Let retuning move it' : 'Keep retuning off it',
      disabled: !definition.properties.some((p) => p.adjusts),
      run: () => markPiece(design.id, piece, { retune: stays ? 'move' : 'stay' }),
    },
    {
      id: 'remove',
      label: 'Remove and close up',
      note: 'Delete',
      run: () => {
        change(design, `remove ${name}`, (d) => ({ design: removePiece(d, id) }));
        onwards(undefined, undefined);
      },
    },
    {
      id: 'remove-open',
      label: 'Remove and leave open',
      disabled: piece.nodes.length < 2,
      run: () => {
        change(design, `remove ${name}`, (d) => ({ design: removePiece(d, id, true) }));
        onwards(undefined, undefined);
      },
    },
  );
  if (piece.kind === 'port') {
    const launches = parts.get('launch')!;
    commands.push(
      ...launches.variants.map((variant): Command => ({
        id: `all-${variant.id}`,
        group: 'At all ports',
        label: `Put a ${variant.label}`,
        run: () => {
          const done = change(design, 'put launches at all ports', (d) => ({
            design: launchAll(keepAttempt(d, newId(), 'without launches'), variant.id),
          }));
          if (done) say(launchWords(useSession.getState().project!, design, done.design));
        },
      })),
      {
        id: 'no-launches',
        group: 'At all ports',
        label: 'Take all launches off',
        disabled: !design.pieces.some((p) => p.kind === launches.kind),
        run: () => {
          change(design, 'take the launches off', (d) => ({ design: withoutLaunches(d) }));
        },
      },
    );
  }
  for (const part of parts.values()) {
    if (part.asks) continue;
    for (const variant of part.variants)
      if (part.pins(variant.settings ?? {}, () => undefined) === piece.nodes.length)
        commands.push({
          id: `replace-${variant.id}`,
          group: 'Replace by',
          label: variant.label,
          run: () => {
            const replaced = change(design, `replace ${name}`, (d) => replaceBy(d, id, variant.id));
            if (replaced) onwards(id, undefined);
          },
        });
  }
  return commands;
}
