import {
  asMade,
  circuitOf,
  inDesign,
  resolveDesign,
  Unmakeable,
  type Made,
  type Circuit,
  type Design,
  type Project,
  type ResolvedDesign,
} from '../../network';
import type { Among, Ends } from '../../lines';
import type { Model } from '../../parts';
import { written } from '../tune';
import type { Varied } from './varied';

/** Digits that a number is read back from to the last bit. */
const EXACT = 17;

/** Beyond the ends of a tolerance, where few samples lie, static values are told from within. */
const ROOM = 1.1;

/** Between which ends the boards of a spread lie; undefined where boards are all alike. */
function amongOf(varied: readonly Varied[]): Among | undefined {
  const ends: Partial<Record<'er' | 'height' | 'thickness', Ends>> = {};
  for (const face of ['er', 'height', 'thickness'] as const) {
    const found = varied.find((v) => v.key === `board:${face}`);
    if (!found) continue;
    const least = face === 'er' ? 1 : 0;
    const reach = ROOM * found.half;
    ends[face] = [Math.max(least, found.nominal - reach), found.nominal + reach];
  }
  return Object.keys(ends).length > 0 ? ends : undefined;
}

/**
 * The circuit of a design as it comes out with everything off by so much, one after the other in `varied`; undefined where it
 * cannot be made. The copper is what it was designed to be on the board it was designed for: what the board and the etching
 * come out as does not make it anew, a value of the design does.
 */
export function statesOf(
  project: Project,
  design: Design,
  resolved: ResolvedDesign,
  varied: readonly Varied[],
  model: Model,
): (off: readonly number[]) => Circuit | undefined {
  const among = amongOf(varied);
  const places = varied.map((v, i) => ({ ...v, i, path: v.key.split(':') }));
  const board = places.filter((v) => v.path[0] === 'board');
  const values = places.filter((v) => v.path[0] === 'value');
  const pieces = places.filter((v) => v.path[0] === 'piece');
  const drawnWith = (off: readonly number[]): ResolvedDesign => {
    if ([...values, ...pieces].every(({ i }) => off[i] === 0)) return resolved;
    const text = (v: Varied, i: number) => written(v.nominal + off[i], v.kind, '', EXACT);
    const overrides = Object.fromEntries(values.map((v) => [v.path[1], text(v, v.i)]));
    const own = pieces.reduce<Design>(
      (d, v) => ({
        ...d,
        pieces: d.pieces.map((p) =>
          p.id === v.path[1] ? { ...p, held: { ...p.held, [v.path[2]]: text(v, v.i) } } : p,
        ),
      }),
      design,
    );
    return resolveDesign(
      pieces.length > 0 ? inDesign(project, design.id, () => own) : project,
      own,
      overrides,
    );
  };
  return (off) => {
    const made: { -readonly [K in keyof Made]?: number } = {};
    for (const { path, i } of board) made[path[1] as 'er' | 'height' | 'thickness' | 'etch'] = off[i];
    try {
      return circuitOf(asMade(drawnWith(off), made, among), model);
    } catch (error) {
      if (error instanceof Unmakeable) return undefined;
      throw error;
    }
  };
}
