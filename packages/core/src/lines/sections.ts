import type { Dimensions, MediumId, PreparedSection, Substrate } from './contract';
import { crossSections, type BoardShape } from './kinds';
import { taped } from './tape';

/** Cross-sections that a board remembers, those asked for last. */
const REMEMBERED = 256;

/** Cross-sections on one board, each prepared once and remembering its sweeps. */
export class Sections {
  private readonly prepared = new Map<string, PreparedSection>();

  constructor(
    readonly medium: MediumId,
    readonly substrate: Substrate,
  ) {}

  /** @param dimensions m, in the order of the shape's */
  get<S extends BoardShape>(shape: S, ...dimensions: Dimensions[S]): PreparedSection {
    const key = `${shape} ${dimensions.join(' ')}`;
    const known = this.prepared.get(key);
    const section = known ?? taped(crossSections[shape][this.medium].prepare(this.substrate, dimensions));
    // The newest stand last.
    if (known) this.prepared.delete(key);
    this.prepared.set(key, section);
    for (const oldest of this.prepared.keys()) {
      if (this.prepared.size <= REMEMBERED) break;
      this.prepared.delete(oldest);
    }
    return section;
  }
}

const boards = new Map<string, Sections>();
const BOARDS = 4;

/** The board that was asked for last: one network is made of many parts, and looked into many times. */
let last: readonly [MediumId, Substrate, Sections] | undefined;

/** The cross-sections of a board, shared by all that is computed on it. */
export function sectionsOn(medium: MediumId, substrate: Substrate): Sections {
  if (last?.[1] === substrate && last[0] === medium) return last[2];
  const { er, tand, height, thickness, conductivity, roughness, cover, offCentre, stretch, among } =
    substrate;
  const key = `${medium} ${er} ${tand} ${height} ${thickness} ${conductivity} ${roughness} ${cover} ${offCentre ?? 0} ${stretch ?? 1} ${among ? JSON.stringify(among) : ''}`;
  const known = boards.get(key);
  const sections = known ?? new Sections(medium, substrate);
  if (known) boards.delete(key);
  boards.set(key, sections);
  for (const oldest of boards.keys()) {
    if (boards.size <= BOARDS) break;
    boards.delete(oldest);
  }
  last = [medium, substrate, sections];
  return sections;
}
