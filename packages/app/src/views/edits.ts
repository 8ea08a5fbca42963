import {
  emptyDesign,
  inDesign,
  marked,
  newId,
  renameIn,
  resolveDesign,
  withOwnBoard,
  type DataBlock,
  type Design,
  type FamilyAxis,
  type KeptFamily,
  type Marks,
  type NamedValue,
  type Piece,
  type Plot,
  type Project,
  type Range,
  type ResolvedDesign,
} from '@ditch/core/network';
import { laminates, stackFieldLabel, type Stack, type StackSpread } from '@ditch/core/stack';
import {
  forgetAsked,
  GrowError,
  holdSide,
  readSides,
  replacePiece,
  setOutline,
  type Side,
} from '@ditch/core/grow';
import { keepAttempt, MOST_ATTEMPTS, MOST_TUNED, tunables } from '@ditch/core/studies';
import { designDifferences } from '@ditch/core/compare';
import { edit, editDesign, say, useSession } from '../store/session';

/** Named, undoable changes of the project: the only way views change it. */

export const setValue = (design: string, name: string, value: string): void =>
  editDesign(
    design,
    `change ${name}`,
    (d) => ({ ...d, values: d.values.map((v) => (v.name === name ? { ...v, value } : v)) }),
    `value:${name}`,
  );

export const addValue = (design: Design): string => {
  let n = 1;
  while (design.values.some((v) => v.name === `v${n}`)) n++;
  const value: NamedValue = { name: `v${n}`, value: '1 mm' };
  editDesign(design.id, `add ${value.name}`, (d) => ({ ...d, values: [...d.values, value] }));
  return value.name;
};

export const removeValue = (design: string, name: string): void =>
  editDesign(design, `remove ${name}`, (d) => ({ ...d, values: d.values.filter((v) => v.name !== name) }));

/** Names of a design's values. */
export const namesOf = (design: string): readonly string[] =>
  useSession
    .getState()
    .project?.designs.find((d) => d.id === design)
    ?.values.map((v) => v.name) ?? [];

/** Renames a value everywhere it is used in the design. */
export function renameValue(design: string, from: string, to: string): void {
  editDesign(design, `rename ${from} to ${to}`, (d) => renameIn(d, from, to));
}

/** A length typed as a number remembers the frequency it was meant for, so that the review can ask later. */
const heldAt = (face: string, text: string, f0: number | undefined): Marks =>
  face !== 'length' && face !== 'theta'
    ? {}
    : { heldAt: face === 'length' && f0 !== undefined && /^\s*[\d.]/.test(text) ? String(f0) : undefined };

/** Lets an optional face go, so that it follows again. */
export const releaseFace = (design: string, piece: Piece, face: string): void =>
  editDesign(design, `let go of ${piece.name}`, (d) =>
    replacePiece(d, piece.id, (p) => {
      const held = { ...p.held };
      delete held[face];
      return { ...p, held };
    }),
  );

/** Chooses what a piece is where that is not a quantity; an empty text takes the setting away. */
export const setSetting = (design: string, piece: Piece, name: string, text: string): void =>
  editDesign(design, `change ${piece.name}`, (d) =>
    replacePiece(d, piece.id, (p) => {
      const settings = { ...p.settings, [name]: text };
      if (text === '') delete settings[name];
      return { ...p, settings };
    }),
  );

/** Says something about a piece that does not make it. */
export const markPiece = (design: string, piece: Piece, change: Marks): void =>
  editDesign(design, `change ${piece.name}`, (d) => replacePiece(d, piece.id, (p) => marked(p, change)));

export const renamePiece = (design: string, piece: string, name: string): void =>
  editDesign(
    design,
    'rename a piece',
    (d) => replacePiece(d, piece, (p) => ({ ...p, name })),
    `rename:${piece}`,
  );

/**
 * Gives free copper another outline, and pins at other sides.
 * @param sides numbers of sides as typed
 * @returns why not, if it cannot be
 */
export function changeOutline(
  design: string,
  piece: Piece,
  corners: string,
  sides: string,
): string | undefined {
  try {
    const numbers = readSides(sides);
    editDesign(
      design,
      `change the outline of ${piece.name}`,
      (d) => setOutline(d, piece.id, corners, numbers),
      `outline:${piece.id}`,
    );
    return undefined;
  } catch (error) {
    if (!(error instanceof GrowError)) throw error;
    return `${error.message[0].toUpperCase()}${error.message.slice(1)}.`;
  }
}

/** Moves a corner of free copper. */
export const moveCorner = (design: string, piece: Piece, corner: number, x: string, y: string): void =>
  editDesign(
    design,
    `move a corner of ${piece.name}`,
    (d) =>
      replacePiece(d, piece.id, (p) => ({
        ...p,
        held: { ...p.held, [`x${corner}`]: x, [`y${corner}`]: y },
      })),
    `corner:${piece.id}:${corner}`,
  );

/** A change of the network that can be refused in words: it is then said and nothing is changed. */
export function change<T extends { readonly design: Design }>(
  design: Design,
  label: string,
  make: (design: Design) => T,
): T | undefined {
  try {
    const result = make(design);
    editDesign(design.id, label, () => result.design);
    return result;
  } catch (error) {
    if (!(error instanceof GrowError)) throw error;
    say(`That cannot be done: ${error.message}.`);
    return undefined;
  }
}

/** Settles a remark of the review by one of its remedies: the design is looked at again, since what is remarked is told by a worker. */
export async function settle(id: string, remark: string, label: string): Promise<void> {
  const { review } = await import('@ditch/core/review');
  const before = useSession.getState().project;
  const design = before?.designs.find((d) => d.id === id);
  const remedy =
    design &&
    review(before!, design, resolveDesign(before!, design))
      .find((r) => r.id === remark)
      ?.remedies?.find((r) => r.label === label);
  // Meanwhile it may have been settled otherwise; the review is about to say so.
  if (!remedy) return;
  try {
    edit(remedy.label.toLowerCase(), remedy.apply);
    const after = useSession.getState().project;
    // What changed is told, because it may lie elsewhere than where one looks.
    const told = (after?.designs ?? []).flatMap((d) => {
      const was = before?.designs.find((x) => x.id === d.id);
      return was && was !== d ? designDifferences(was, d) : [];
    });
    if (told.length > 1) say(`${remedy.label}: ${told.join('; ')}.`);
  } catch (error) {
    if (!(error instanceof GrowError)) throw error;
    say(error.message);
  }
}

/** Holds `face` of a piece at `text`; `others` are the faces of the same property, which follow from now on. */
export const holdFace = (
  design: string,
  piece: Piece,
  face: string,
  text: string,
  others: readonly string[],
  f0?: number,
): void =>
  editDesign(
    design,
    `change ${piece.name}`,
    (d) =>
      replacePiece(d, piece.id, (p) => {
        const rest = Object.entries(p.held).filter(([name]) => !others.includes(name) || name === face);
        return marked(
          { ...p, held: { ...Object.fromEntries(rest), [face]: text } },
          { asked: forgetAsked(p.marks, others), ...heldAt(face, text, f0) },
        );
      }),
    `piece:${piece.id}:${face}`,
  );

export const changeDesign = (id: string, label: string, change: Partial<Design>, merge = ''): void =>
  editDesign(id, label, (d) => ({ ...d, ...change }), merge);

/** Arranges the plots of a design. */
/** Puts a value on the tuning strip, where hand and search may move it, or takes it off. */
export function setFree(id: string, key: string, on: boolean): void {
  if (!on)
    return editDesign(id, 'take a value off the tuning strip', (d) => ({
      ...d,
      strip: (d.strip ?? []).filter((k) => k !== key),
    }));
  const project = useSession.getState().project!;
  const design = project.designs.find((d) => d.id === id)!;
  // What is gone from the design makes room.
  const known = new Set(tunables(project, design, resolveDesign(project, design)).map((t) => t.key));
  const others = (design.strip ?? []).filter((k) => k !== key && known.has(k));
  if (others.length >= MOST_TUNED)
    return say(`The tuning strip holds ${MOST_TUNED} values; take one off to put another on it.`);
  editDesign(id, 'put a value on the tuning strip', (d) => ({ ...d, strip: [...others, key] }));
}

/** Keeps a state of a design as an attempt, the present one where no other is given; false where there is no room. */
export function keepState(
  id: string,
  name: string,
  label: string,
  state = (d: Design): Design => d,
): boolean {
  const { attempts = [] } = useSession.getState().project!.designs.find((d) => d.id === id)!;
  if (attempts.length >= MOST_ATTEMPTS) {
    say(`A design keeps ${MOST_ATTEMPTS} attempts; forget one to keep another.`);
    return false;
  }
  editDesign(id, label, (d) => ({ ...d, attempts: keepAttempt(state(d), newId(), name).attempts }));
  return true;
}

/** Ranges that a file holds at most. */
const MOST_RANGES = 96;

/** Gives a value the ends between which it may be moved, or takes them away. */
export const setRange = (design: string, key: string, ends: Omit<Range, 'key'> | undefined): void =>
  editDesign(design, 'set a range', (d) => {
    // Of what is off the strip the latest are remembered.
    const others = (d.ranges ?? []).filter((r) => r.key !== key).slice(1 - MOST_RANGES);
    return { ...d, ranges: ends ? [...others, { key, ...ends }] : others };
  });

export const setPlots = (design: string, label: string, plots: readonly Plot[]): void =>
  editDesign(design, label, (d) => ({ ...d, plots }), `plots:${label}`);

export const addMarker = (design: string, freq: string): void =>
  editDesign(design, 'add a marker', (d) => ({ ...d, markers: [...d.markers, { id: newId(), freq }] }));

export const moveMarker = (design: string, id: string, freq: string): void =>
  editDesign(
    design,
    'move a marker',
    (d) => ({ ...d, markers: d.markers.map((m) => (m.id === id ? { ...m, freq } : m)) }),
    `marker:${id}`,
  );

export const removeMarker = (design: string, id: string): void =>
  editDesign(design, 'remove a marker', (d) => ({ ...d, markers: d.markers.filter((m) => m.id !== id) }));

export const LINES_PAGE = 'the Lines page';

/** Who stands on a board, by name; who asks, a design by its id or the Lines page, is not named. */
export const usersOf = (project: Project, stack: string, asking?: string): string[] =>
  [...project.designs, { id: LINES_PAGE, name: LINES_PAGE, stack: project.line.stack }]
    .filter((user) => user.stack === stack && user.id !== asking)
    .map((user) => user.name);

/** Changes a property of a board, and returns its id afterwards: a laminate that ships becomes the project's own. */
export function setStackField(stack: string, field: keyof Stack, text: string): string {
  const { project } = useSession.getState();
  if (!project) return stack;
  const own = withOwnBoard(project, stack);
  const change = (s: Stack) => (s.id === own.id ? { ...s, [field]: text } : s);
  edit(
    `change the board\u2019s ${stackFieldLabel(field).toLowerCase()}`,
    () => ({ ...own.project, stacks: own.project.stacks.map(change) }),
    `stack:${own.id}:${field}`,
  );
  return own.id;
}

/** Says plus and minus what of a board comes out how; empty: as designed. A laminate that ships becomes the project's own. */
export function setStackSpread(stack: string, spread: StackSpread, text: string): void {
  const { project } = useSession.getState();
  if (!project) return;
  const own = withOwnBoard(project, stack);
  const change = (s: Stack): Stack =>
    s.id === own.id ? { ...s, spread: withText(s.spread, spread, text) } : s;
  edit(
    'change a tolerance of the board',
    () => ({ ...own.project, stacks: own.project.stacks.map(change) }),
    `stack:${own.id}:spread:${spread}`,
  );
}

/** Texts with one changed; an empty one is not kept. */
function withText<K extends string>(
  texts: Readonly<Partial<Record<K, string>>> | undefined,
  key: K,
  text: string,
): Partial<Record<K, string>> {
  const next: Partial<Record<K, string>> = { ...texts, [key]: text };
  if (text.trim() === '') delete next[key];
  return next;
}

/** Says plus and minus what a named value comes out as; empty: exact. */
export const setValueSpread = (design: string, name: string, text: string): void =>
  editDesign(
    design,
    `change the tolerance of ${name}`,
    (d) => ({
      ...d,
      values: d.values.map((v) => {
        if (v.name !== name) return v;
        const next: { -readonly [K in keyof NamedValue]: NamedValue[K] } = { ...v, spread: text };
        if (text.trim() === '') delete next.spread;
        return next;
      }),
    }),
    `spread:${name}`,
  );

/** Says plus and minus what a face of a piece comes out as; empty: exact. */
export const setPieceSpread = (design: string, piece: Piece, face: string, text: string): void =>
  editDesign(
    design,
    `change a tolerance of ${piece.name}`,
    (d) =>
      replacePiece(d, piece.id, (p) =>
        marked(p, { spread: withText(p.marks?.spread, face, text) as Record<string, string> }),
      ),
    `spread:${piece.id}:${face}`,
  );

/** What a design's family is taken over. */
export const setFamily = (design: string, family: readonly FamilyAxis[]): void =>
  editDesign(
    design,
    'change the family',
    (d) => {
      const next: { -readonly [K in keyof Design]: Design[K] } = { ...d, family };
      if (family.length === 0) delete next.family;
      return next;
    },
    'family',
  );

/** Keeps a family as it is now, to be drawn beside later ones; returns its id. */
export const keepFamily = (design: Design, name: string, level: KeptFamily['level']): string => {
  const { values, pieces, family: axes = [] } = design;
  const kept: KeptFamily = { id: newId(), name, axes, level, values, pieces };
  editDesign(design.id, `keep \u201C${name}\u201D`, (d) => ({
    ...d,
    keptFamilies: [...(d.keptFamilies ?? []), kept],
  }));
  return kept.id;
};

export const forgetFamily = (design: string, { id, name }: KeptFamily): void =>
  editDesign(design, `forget \u201C${name}\u201D`, (d) => ({
    ...d,
    keptFamilies: d.keptFamilies?.filter((k) => k.id !== id),
  }));

/** Adds a board to the project; returns its id there. */
export function addBoard(stack: Stack): string {
  let added = '';
  edit(`add ${stack.name}`, (p) => {
    const { project, id } = withStack(p, stack);
    added = id;
    return project;
  });
  return added;
}

/** The project with a copy of a board, under a name that no other board has. */
function withCopy(project: Project, stack: Stack, wish: string): { project: Project; id: string } {
  let name = wish;
  for (let n = 2; project.stacks.some((s) => s.name === name); n++) name = `${wish} ${n}`;
  const copy = { ...stack, id: newId(), name };
  return { project: { ...project, stacks: [...project.stacks, copy] }, id: copy.id };
}

export function copyBoard(project: Project, stack: Stack): string {
  const copied = withCopy(project, stack, `${stack.name} (copy)`);
  edit(`copy ${stack.name}`, () => copied.project);
  return copied.id;
}

export const removeBoard = (stack: Stack): void =>
  edit(`remove ${stack.name}`, (p) => ({ ...p, stacks: p.stacks.filter((s) => s.id !== stack.id) }));

/** Gives a board all properties that it ships with; its name and its place stay. */
export const resetBoard = (stack: Stack, shipped: Stack): void =>
  edit(`set ${stack.name} back to what ships`, (p) => ({
    ...p,
    stacks: p.stacks.map((s) => (s.id === stack.id ? { ...shipped, id: s.id, name: s.name } : s)),
  }));

/** The project with a copy of a board for one of those who stand on it. */
function withBoardFor(project: Project, id: string, owner: string): ReturnType<typeof withCopy> | undefined {
  const stack = project.stacks.find((s) => s.id === id);
  return stack && withCopy(project, stack, `${stack.name}, ${owner}`.slice(0, 180));
}

/** Gives a design a board of its own, so that no other design follows its changes. */
export const ownBoard = (id: string): void =>
  edit('give the design a board of its own', (p) => {
    const design = p.designs.find((d) => d.id === id);
    const own = design && withBoardFor(p, design.stack, design.name);
    return own ? inDesign(own.project, id, (d) => ({ ...d, stack: own.id })) : p;
  });

/** The same for the line of the Lines page. */
export const ownLineBoard = (): void =>
  edit('give the line a board of its own', (p) => {
    const own = withBoardFor(p, p.line.stack, 'line');
    return own ? { ...own.project, line: { ...p.line, stack: own.id } } : p;
  });

/** Lets a design hold one side of all its pieces. */
export const hold = (design: Design, resolved: ResolvedDesign, side: Side): void =>
  editDesign(design.id, side === 'physical' ? 'hold the copper' : 'hold the electrical side', (d) =>
    holdSide(d, resolved, side),
  );

/** A stack of the project like `stack`: the same one when its properties match, a copy of its own otherwise. */
export function withStack(project: Project, stack: Stack): { project: Project; id: string } {
  const same = project.stacks.find((s) =>
    Object.keys(stack).every((k) => k === 'id' || s[k as keyof Stack] === stack[k as keyof Stack]),
  );
  if (same) return { project, id: same.id };
  const id = project.stacks.some((s) => s.id === stack.id) ? newId() : stack.id;
  return { project: { ...project, stacks: [...project.stacks, { ...stack, id }] }, id };
}

/** The project with a design that was made on a board, under a name that no other design has. */
export function withMade(project: Project, stack: Stack, made: Design, id: string): Project {
  const board = withStack(project, stack);
  const names = new Set(project.designs.map((d) => d.name));
  let { name } = made;
  for (let n = 2; names.has(name); n++) name = `${made.name} (${n})`;
  return { ...board.project, designs: [...project.designs, { ...made, id, name, stack: board.id }] };
}

/** A laminate that was left, as it ships and used by nobody, goes: it can be had again. The project's own boards stay. */
function without(project: Project, left: string): Project {
  return usersOf(project, left).length > 0 || !laminates.some((l) => l.id === left)
    ? project
    : { ...project, stacks: project.stacks.filter((s) => s.id !== left) };
}

/** Puts a design on another stack. */
export const chooseStack = (design: string, stack: Stack): void =>
  edit(`use ${stack.name}`, (p) => {
    const { project, id } = withStack(p, stack);
    const before = p.designs.find((d) => d.id === design)?.stack ?? '';
    return without(
      inDesign(project, design, (d) => ({ ...d, stack: id })),
      before,
    );
  });

export const chooseLineStack = (stack: Stack): void =>
  edit(`use ${stack.name}`, (p) => {
    const { project, id } = withStack(p, stack);
    return without({ ...project, line: { ...project.line, stack: id } }, p.line.stack);
  });

export const removeDesign = (design: Design): void =>
  edit(`remove \u201C${design.name}\u201D`, (p) => ({
    ...p,
    designs: p.designs.filter((d) => d.id !== design.id),
    ...(p.panels && {
      panels: p.panels.map((panel) => ({
        ...panel,
        placed: panel.placed.filter((placed) => placed.design !== design.id),
      })),
    }),
  }));

export const duplicateDesign = (design: Design): string => {
  const copy: Design = { ...design, id: newId(), name: `${design.name} (copy)` };
  edit(`copy \u201C${design.name}\u201D`, (p) => ({ ...p, designs: [...p.designs, copy] }));
  return copy.id;
};

/** Adds an empty design on the board and at the frequency of the line sheet. */
export const newDesign = (project: Project): string => {
  const { stack, medium, freq } = project.line;
  const names = new Set(project.designs.map((d) => d.name));
  let name = 'New design';
  for (let n = 2; names.has(name); n++) name = `New design ${n}`;
  const design = emptyDesign(name, stack, medium, freq);
  edit(`add \u201C${name}\u201D`, (p) => ({ ...p, designs: [...p.designs, design] }));
  return design.id;
};

/** Adds data to the project and draws it beside a design's response. */
export const addOverlay = (design: string, block: DataBlock): void =>
  edit(block.origin === 'kept' ? `keep \u201C${block.name}\u201D` : `import ${block.name}`, (p) => ({
    ...inDesign(p, design, (d) => ({ ...d, overlays: [...d.overlays, block.id] })),
    data: [...p.data, block],
  }));

/** Adds data to the project without drawing it. */
export const addData = (block: DataBlock): void =>
  edit(`import ${block.name}`, (p) => ({ ...p, data: [...p.data, block] }));

export const toggleOverlay = (design: string, block: DataBlock): void =>
  editDesign(design, `show or hide ${block.name}`, (d) => ({
    ...d,
    overlays: d.overlays.includes(block.id)
      ? d.overlays.filter((o) => o !== block.id)
      : [...d.overlays, block.id],
  }));

/** Removes data, unless a piece works with it. */
export const removeData = (block: DataBlock): void =>
  edit(`remove ${block.name}`, (p) => ({
    ...p,
    data: p.data.filter((d) => d.id !== block.id),
    designs: p.designs.map((d) => ({ ...d, overlays: d.overlays.filter((o) => o !== block.id) })),
  }));
