import type { Substrate } from '../lines';
import { layersOf, type Copper } from '../planar';
import validate from './generated/validate-copper';
import { invalid } from './invalid';
import { encodingProblem } from './text';

/** A file of copper that cannot be read; the message names the place and what is wrong. */
export class CopperFileError extends Error {}

/** Plain copper as it stands in a file: metres, SI. */
interface CopperFile {
  readonly stack: {
    readonly medium: 'microstrip' | 'stripline';
    readonly er: number;
    readonly tand?: number;
    readonly height: number;
    readonly cover?: number | null;
    readonly thickness?: number;
    readonly conductivity?: number | null;
    readonly roughness?: number;
  };
  readonly copper: Copper['polygons'];
  readonly ports: readonly {
    readonly number: number;
    readonly edge: Copper['ports'][number]['edge'];
    readonly plane?: number;
    readonly z0?: number;
  }[];
  readonly walls?: Copper['walls'];
}

/**
 * Reads plain copper to be solved (`copper.schema.json`).
 * @throws CopperFileError
 */
export function readCopper(text: string): Copper {
  let json: unknown;
  try {
    json = JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch {
    throw new CopperFileError(
      encodingProblem(text) ?? 'the file is not JSON, so it is no copper to be solved',
    );
  }
  if (typeof json !== 'object' || json === null || (json as { format?: unknown }).format !== 'ditch-copper')
    throw new CopperFileError('the file is no copper to be solved (its "format" is not "ditch-copper")');
  const { version } = json as { version?: unknown };
  if (typeof version === 'number' && version > 1)
    throw new CopperFileError(`the file was written by a newer Ditch (format version ${version})`);
  if (!validate(json)) throw new CopperFileError(invalid(validate.errors![0]));
  const { stack, copper, ports, walls } = json as unknown as CopperFile;
  if (walls && !(walls.x0 < walls.x1 && walls.y0 < walls.y1))
    throw new CopperFileError('walls: x0 must be less than x1, and y0 less than y1');
  const reaches = (corner: readonly [number, number]) =>
    !walls ||
    (corner[0] >= walls.x0 - 1e-9 &&
      corner[0] <= walls.x1 + 1e-9 &&
      corner[1] >= walls.y0 - 1e-9 &&
      corner[1] <= walls.y1 + 1e-9);
  copper.forEach((polygon, i) => {
    if (!polygon.every(reaches)) throw new CopperFileError(`copper[${i}]: reaches beyond the walls`);
  });
  const { medium, er, tand = 0, height, cover, thickness = 0, conductivity, roughness = 0 } = stack;
  return {
    layers: layersOf(medium, { er, tand, height, cover: cover ?? Infinity }),
    metal: { conductivity: conductivity ?? Infinity, thickness, roughness },
    polygons: copper,
    ports: ports.map(({ plane = 0, z0 = 50, ...port }) => ({ ...port, plane, z0 })),
    ...(walls && { walls }),
  };
}

/** Copper of a board as the text of a file that can be solved without its project. */
export function writeCopper(
  { polygons, ports, walls }: Copper,
  { medium, substrate }: { readonly medium: CopperFile['stack']['medium']; readonly substrate: Substrate },
): string {
  const { er, tand, height, cover, thickness, conductivity, roughness } = substrate;
  const finite = (x: number) => (Number.isFinite(x) ? x : null);
  const file: CopperFile & { format: string; version: number } = {
    format: 'ditch-copper',
    version: 1,
    stack: {
      medium,
      er,
      tand,
      height,
      cover: finite(cover),
      thickness,
      conductivity: finite(conductivity),
      roughness,
    },
    copper: polygons,
    ports: ports.map(({ number, edge, plane, z0 }) => ({ number, edge, plane, z0 })),
    ...(walls && { walls }),
  };
  return `${JSON.stringify(file)}\n`;
}
