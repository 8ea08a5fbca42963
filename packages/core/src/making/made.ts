import { media } from '../lines';
import { resolveDesign, type Design, type Project } from '../network';
import { resolveStack, type Stack } from '../stack';
import { QuantityError, readQuantity } from '../units';
import type { BoardPlan } from './board';
import { panelOf, type PanelProblem } from './panel';
import type { Tile } from './place';
import { planOf, unmade } from './plan';
import { readShop, usualShop, type ShopLimits } from './shop';

/** What is made: one design by itself, or a panel; by id. */
export type What = { readonly design: string } | { readonly panel: string };

/** What a board consists of across its thickness, m. */
export interface Layers {
  readonly height: number;
  readonly thickness: number;
  /** Of a lid above the dielectric; absent: open. */
  readonly cover?: number;
  /** The copper lies between two planes, in the middle of the height. */
  readonly between: boolean;
}

/** A board ready to be checked and written, or what stands in the way. */
export interface Made {
  readonly plan?: BoardPlan;
  readonly tiles: readonly Tile[];
  readonly problems: readonly PanelProblem[];
}

/**
 * What is made of a project.
 * @param etch by how much every line is widened to make up for etching, m
 */
export function madeOf(project: Project, what: What, etch = 0): Made {
  const land = landOf(project);
  if ('panel' in what) {
    const panel = project.panels?.find((p) => p.id === what.panel);
    return panel
      ? panelOf(project, panel, etch, land)
      : { tiles: [], problems: [{ message: 'there is no such panel' }] };
  }
  const design = project.designs.find((d) => d.id === what.design);
  if (!design) return { tiles: [], problems: [{ message: 'there is no such design' }] };
  const resolved = resolveDesign(project, design);
  const wrong = unmade(resolved);
  if (wrong !== undefined) return { tiles: [], problems: [{ message: wrong }] };
  try {
    const plan = planOf(design.name, resolved, { etch, land });
    return plan
      ? { plan, tiles: [], problems: [] }
      : { tiles: [], problems: [{ message: 'it has no copper' }] };
  } catch (error) {
    if (error instanceof RangeError)
      return { tiles: [], problems: [{ field: 'etch', message: error.message }] };
    throw error;
  }
}

/** Ids of the designs that are made, in their order. */
export const idsOf = (project: Project, what: What): readonly string[] =>
  'design' in what
    ? [what.design]
    : (project.panels?.find((p) => p.id === what.panel)?.placed.map((p) => p.design) ?? []);

/** The design that is made, or the first on a panel, with the board that it stands on as it was typed. */
export function boardFor(
  project: Project,
  what: What,
): { readonly design: Design; readonly stack: Stack } | undefined {
  const design = idsOf(project, what).flatMap((id) => project.designs.find((d) => d.id === id) ?? [])[0];
  const stack = project.stacks.find((s) => s.id === design?.stack);
  return design && stack && { design, stack };
}

/** The same board in numbers; undefined while it has errors. */
const stackFor = (project: Project, what: What) => {
  const found = boardFor(project, what);
  return found && resolveStack(found.stack, found.design.medium).value;
};

/** What the project's shop can make of a board; in words why not. @throws QuantityError */
export function limitsFor(project: Project, what: What): ShopLimits {
  const { minWidth = 0, minGap = 0 } = stackFor(project, what) ?? {};
  return readShop(project.shop ?? usualShop, { minWidth, minGap });
}

/** What the board of a design, or of the first on a panel, consists of; undefined while it has errors. */
export function layersOf(project: Project, what: What): Layers | undefined {
  const stack = stackFor(project, what);
  if (!stack) return undefined;
  const { height, thickness, cover } = stack.flat ?? stack.substrate;
  return {
    height,
    thickness,
    ...(Number.isFinite(cover) && { cover }),
    between: media[boardFor(project, what)!.design.medium].grounds === 2,
  };
}

/** A length of the project's shop, m; undefined where it cannot be read. */
function lengthOf(project: Project, field: 'etch' | 'ring'): number | undefined {
  try {
    return readQuantity((project.shop ?? usualShop)[field], { kind: 'length', min: 0 }).re;
  } catch (error) {
    if (error instanceof QuantityError) return undefined;
    throw error;
  }
}

/** By how much the project's shop has lines widened, m; none where that cannot be read. */
export const etchOf = (project: Project): number => lengthOf(project, 'etch') ?? 0;

/** How much copper the project's shop has around every hole, m; undefined where lands are not wished for. */
const landOf = (project: Project): number | undefined =>
  project.shop?.lands ? lengthOf(project, 'ring') : undefined;
