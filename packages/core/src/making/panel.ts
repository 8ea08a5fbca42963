import { resolveDesign, type Panel, type PlacedDesign, type Project } from '../network';
import { boxOf, circle, outlinesOf, type Point, type Ring } from '../polygons';
import { formatQuantity, QuantityError, readQuantity, type QuantityRule } from '../units';
import { copperOf, placedPlan, type BoardPlan, type Hole, type Word } from './board';
import { fenceFields, launchFields, panelFields, place } from './fields';
import { atRim, CHORD, fenceAlong, launchesAt } from './grounds';
import { etchedWord } from './letters';
import { inNm, planOf, unmade, widened } from './plan';
import { inTheWay, overlapOf, ROUNDING, type Tile } from './place';
import type { LengthField } from './shop';
import { around, nameWords, portWord, wordBox } from './words';

/** A panel with its designs in place. */
export interface PanelPlan {
  /** Absent while something is wrong with the panel's own fields. */
  readonly plan?: BoardPlan;
  /** Where each design's own board stands; m. */
  readonly tiles: readonly Tile[];
  /** What is wrong, at the field of the panel or of what is placed. */
  readonly problems: readonly PanelProblem[];
}

export interface PanelProblem {
  /** Id of the placing; absent: of the panel itself. */
  readonly placed?: string;
  /** Name of the field; absent: all of it. */
  readonly field?: string;
  readonly message: string;
}

/** A fence keeps as many heights of the board away from other copper. */
const FENCE_CLEAR = 3;

const shown = (v: number) => formatQuantity(v, 'length', { digits: 4 });

const inWhole = (rings: readonly Ring[]): Ring[] =>
  rings.map((ring) => ring.map(([x, y]): Point => [inNm(x), inNm(y)]));

/**
 * A panel of a project as a shop makes it.
 * @param etch by how much every line is widened, m
 * @param land least copper around holes of designs, m; absent: as drawn
 */
export function panelOf(project: Project, panel: Panel, etch = 0, land?: number): PanelPlan {
  const problems: PanelProblem[] = [];
  const read = (text: string | undefined, rule: QuantityRule, at: Omit<PanelProblem, 'message'>) => {
    if (text === undefined) return undefined;
    try {
      return readQuantity(text, rule).re;
    } catch (error) {
      if (!(error instanceof QuantityError)) throw error;
      problems.push({ ...at, message: error.message });
      return undefined;
    }
  };
  const own = (field: (typeof panelFields)[number]['field']) => {
    const text = panel[field];
    const { rule } = panelFields.find((f) => f.field === field)!;
    return (field === 'width' || field === 'height') && text?.trim() === ''
      ? undefined
      : read(text, rule, { field });
  };
  const margin = own('margin') ?? 0;
  const sizes = { width: own('width'), height: own('height') };
  const group = <T extends string>(
    name: string,
    fields: readonly LengthField<T>[],
    texts: Readonly<Record<T, string>> | undefined,
  ): Readonly<Record<T, number>> | undefined => {
    if (!texts) return undefined;
    const values = fields.map(
      (f) => [f.field, read(texts[f.field], f.rule, { field: `${name}.${f.field}` })] as const,
    );
    return values.every(([, v]) => v !== undefined)
      ? (Object.fromEntries(values) as Readonly<Record<T, number>>)
      : undefined;
  };
  const launches = group('launches', launchFields, panel.launches);
  const fence = group('fence', fenceFields, panel.fence);
  const [letters, marks] = [own('letters'), own('marks')];

  // Each design once, however often it is placed.
  const made = new Map<string, ReturnType<typeof designPlan>>();
  const designPlan = (id: string) => {
    const design = project.designs.find((d) => d.id === id);
    if (!design) return { problem: 'this design is no longer in the project' };
    const resolved = resolveDesign(project, design);
    const problem = unmade(resolved);
    if (problem !== undefined) return { problem };
    try {
      const plan = planOf(design.name, resolved, { etch, land });
      return plan ? { plan, design, resolved } : { problem: 'it has no copper' };
    } catch (error) {
      if (error instanceof RangeError) return { problem: `etching ${error.message}` };
      throw error;
    }
  };
  const first = panel.placed.flatMap((p) => project.designs.find((d) => d.id === p.design) ?? [])[0];
  const set = panel.placed.flatMap((placed: PlacedDesign) => {
    let one = made.get(placed.design);
    if (!one) made.set(placed.design, (one = designPlan(placed.design)));
    const x = read(placed.x, place, { placed: placed.id, field: 'x' });
    const y = read(placed.y, place, { placed: placed.id, field: 'y' });
    if (!one.plan) {
      problems.push({ placed: placed.id, message: one.problem });
      return [];
    }
    if (one.design.stack !== first.stack || one.design.medium !== first.medium)
      problems.push({
        placed: placed.id,
        message: `stands on another board than ${first.name}: a panel is of one`,
      });
    if (x === undefined || y === undefined) return [];
    const plan = placedPlan(one.plan, placed.turns ?? 0, inNm(x), inNm(y));
    const { x0, x1, y0, y1 } = boxOf(plan.board);
    const tile: Tile = {
      id: placed.id,
      name: one.design.name,
      x: x0,
      y: y0,
      width: x1 - x0,
      height: y1 - y0,
      copper: plan.outlines,
    };
    return [{ plan, tile, resolved: one.resolved }];
  });
  const tiles = set.map((s) => s.tile);
  // Said at both: whichever was moved, its field is in hand.
  for (const tile of tiles)
    for (const other of inTheWay(tile, tiles))
      problems.push({
        placed: tile.id,
        message: `overlaps ${other.name} by ${shown(overlapOf(tile, other))}`,
      });

  const outline = panel.outline;
  const reach = boxOf(
    tiles.flatMap((t): Point[] => [
      [t.x, t.y],
      [t.x + t.width, t.y + t.height],
    ]),
  );
  const wide = sizes.width ?? (tiles.length > 0 ? reach.x1 + margin : 2 * margin);
  const high = sizes.height ?? (tiles.length > 0 ? reach.y1 + margin : 2 * margin);
  const board: Ring = outline ?? [
    [0, 0],
    [wide, 0],
    [wide, high],
    [0, high],
  ];
  const { x1: right, y1: back } = boxOf(board);
  for (const tile of tiles)
    if (
      tile.x < -ROUNDING ||
      tile.y < -ROUNDING ||
      tile.x + tile.width > right + ROUNDING ||
      tile.y + tile.height > back + ROUNDING
    )
      problems.push({ placed: tile.id, message: 'reaches beyond the board' });
  if (!(right > 0 && back > 0)) return { tiles, problems };

  const outlines = set.flatMap((s) => s.plan.outlines);
  const ports = set.flatMap((s) => s.plan.ports);
  const height = set[0]?.resolved.stack?.substrate.height ?? 0;
  const least = set[0]?.resolved.stack?.minWidth ?? 0;
  const extra: Ring[] = [];
  const holes: Hole[] = set.flatMap((s) => s.plan.holes);
  if (marks) {
    const inset = Math.max(1.5 * marks, margin / 2);
    for (const [x, y] of [
      [inset, inset],
      [right - inset, inset],
      [inset, back - inset],
    ])
      extra.push(circle([x, y], marks / 2, CHORD));
  }
  if (launches) {
    const at = launchesAt(atRim(ports, board), launches, outlines);
    extra.push(...at.copper);
    holes.push(...at.holes);
  }
  if (fence && panel.fence) {
    const along = fenceAlong(board, panel.fence.sides, fence, [...outlines, ...extra], FENCE_CLEAR * height);
    extra.push(...along.copper);
    holes.push(...along.holes);
  }
  const grounds = inWhole(
    outlinesOf(extra).flatMap((ring): Ring[] => {
      const made = etch > 0 ? widened(ring, etch / 2) : ring;
      return made ? [made] : [];
    }),
  );
  const solid = [...outlines, ...grounds];
  const taken: Ring[] = [];
  const room = ({ x, y, width: w, height: h }: Tile): Ring => [
    [x, y],
    [x + w, y],
    [x + w, y + h],
    [x, y + h],
  ];
  /** What is put beside one another takes its room from what comes later. */
  const wordsOf = ({ plan, tile }: (typeof set)[number]): readonly Word[] => {
    const height = letters ?? plan.words[0]?.height;
    if (height === undefined) return [];
    const near = around(solid, room(tile), height).outlines;
    const own: Word[] = [];
    const put = (words: readonly Word[]) => {
      own.push(...words);
      taken.push(...words.map(wordBox));
    };
    for (const port of plan.ports)
      put([portWord(port, height, around([...near, ...taken], room(tile), height))]);
    if (letters !== undefined)
      put(nameWords(tile.name, letters, around([...near, ...taken], room(tile), height)));
    return own;
  };
  const words = set.flatMap(wordsOf);
  const lettering = letters
    ? words.flatMap((w) =>
        w.crowded
          ? []
          : etchedWord(w.text, w.height, 1.2 * least + etch).map((ring) =>
              ring.map(([x, y]): Point => [x + w.x, y + w.y]),
            ),
      )
    : [];
  const smallest = (list: readonly (number | undefined)[]) => {
    const known = list.filter((v) => v !== undefined);
    return known.length > 0 ? Math.min(...known) : undefined;
  };
  return {
    tiles,
    problems,
    plan: {
      name: panel.name,
      chord: CHORD,
      ...copperOf(solid, inWhole(lettering)),
      board,
      holes,
      ...(letters ? { words: [], etched: words } : { words, etched: [] }),
      ports,
      mounted: set.flatMap((s) => s.plan.mounted),
      narrowest: smallest(set.map((s) => s.plan.narrowest)),
      narrowestGap: smallest(set.map((s) => s.plan.narrowestGap)),
    },
  };
}
