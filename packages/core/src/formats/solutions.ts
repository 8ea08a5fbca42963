import type { Copper, KeptSolution, Point } from '../planar';

type Layer = Copper['layers']['below'];

/** Copper as it stands in a file; null for what has no end. */
export interface FileCopper {
  readonly layers: { readonly below: FileLayer; readonly above: FileLayer };
  readonly metal: Omit<Copper['metal'], 'conductivity'> & { readonly conductivity: number | null };
  readonly polygons: Copper['polygons'];
  readonly ports: Copper['ports'];
  readonly walls?: Copper['walls'];
}

/** A field solution as it stands in a file; null for what has no end. */
export interface FileSolution extends Omit<KeptSolution, 'copper' | 'samples' | 'error'> {
  readonly error: number | null;
  readonly copper: FileCopper;
  readonly freq: readonly number[];
  readonly re: readonly number[];
  readonly im: readonly number[];
}
type FileLayer = Omit<Layer, 'height'> & { readonly height: number | null };

/** Digits that say more than the solution knows. */
const DIGITS = 8;
const short = (x: number): number => Number(x.toPrecision(DIGITS));
/** Hundredths of a nanometre. */
const place = (x: number): number => Math.round(x * 1e11) / 1e11;
const point = ([x, y]: Point): Point => [place(x), place(y)];
const ended = (x: number): number | null => (Number.isFinite(x) ? x : null);

/** Copper as a file has it. */
export function copperTo({ layers, metal, polygons, ports, walls }: Copper): FileCopper {
  const layer = (l: Layer): FileLayer => ({ ...l, height: ended(l.height) });
  return {
    layers: { below: layer(layers.below), above: layer(layers.above) },
    metal: { ...metal, conductivity: ended(metal.conductivity) },
    polygons: polygons.map((p) => p.map(point)),
    ports: ports.map((p) => ({ ...p, edge: [point(p.edge[0]), point(p.edge[1])] })),
    ...(walls && {
      walls: { x0: place(walls.x0), x1: place(walls.x1), y0: place(walls.y0), y1: place(walls.y1) },
    }),
  };
}

/** Copper from its entry in a file. */
export function copperFrom(copper: FileCopper): Copper {
  const { layers, metal } = copper;
  const layer = (l: FileLayer): Layer => ({ ...l, height: l.height ?? Infinity });
  return {
    ...copper,
    layers: { below: layer(layers.below), above: layer(layers.above) },
    metal: { ...metal, conductivity: metal.conductivity ?? Infinity },
  };
}

/** A solution as a file has it. */
export function solutionTo({ copper, samples, error, ...rest }: KeptSolution): FileSolution {
  const all = (part: 're' | 'im') => samples.flatMap((s) => Array.from(s[part], short));
  return {
    ...rest,
    seconds: short(rest.seconds),
    ports: rest.ports.map((p) => ({ number: p.number, z0: short(p.z0), eeff: short(p.eeff) })),
    error: ended(short(error)),
    copper: copperTo(copper),
    freq: samples.map((s) => s.x),
    re: all('re'),
    im: all('im'),
  };
}

/** A solution from its entry in a file. */
export function solutionFrom({ copper, error, freq, re, im, ...rest }: FileSolution): KeptSolution {
  const n = copper.ports.length ** 2;
  return {
    ...rest,
    error: error ?? Infinity,
    copper: copperFrom(copper),
    samples: freq.map((x, k) => ({
      x,
      re: Float64Array.from(re.slice(k * n, (k + 1) * n)),
      im: Float64Array.from(im.slice(k * n, (k + 1) * n)),
    })),
  };
}
