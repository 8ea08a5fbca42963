import type { Layers } from './contract';
import { cellBehind, placeOf, type Place, type Row } from './entry';
import { cellOf, edgeHalf, scaled, type Cell, type Half, type Mesh } from './mesh';

/** How the current of a line's wave is spread at some frequency. */
interface Profile {
  /** Currents along each row of its cells, 1 in all, and from each row to the next in quadrature. */
  readonly along: ArrayLike<number>;
  readonly across: ArrayLike<number>;
}

/**
 * A line that goes on behind a port as if for ever. Its current is known but for two numbers: the wave that comes and the one
 * that goes (a travelling-wave termination, as in Jackson & Pozar 1985), so that nothing ends there and nothing radiates.
 */
export interface Launch {
  /** Which of the ports. */
  readonly port: number;
  /** Function outside whose field tells the wave that goes. */
  readonly test: number;
  /** Functions outside, with how far out each stands, m, and how much of the wave is left there. */
  readonly sources: readonly {
    readonly basis: number;
    readonly out: number;
    readonly fade: number;
    readonly across: boolean;
    /** Which of the line's profiles it is spread by; absent: it is not. */
    readonly profile?: number;
  }[];
}

/** A mesh with lines that go on behind its ports. */
export interface Launched {
  readonly mesh: Mesh;
  /** Functions from this one on are known, and not tested. */
  readonly tested: number;
  readonly launches: readonly Launch[];
}

/** Periods behind the port that are as they are in front of it, and heights that they go on for at least; further out one cell
 * is as wide as the line. */
const NEAR = { periods: 4, heights: 3 } as const;
/** Growth of the cells after them, and the largest in heights. */
const GROWTH = 1.5;
const LARGEST = 2;
/** How much of the length outside is at full strength. */
const FULL = 0.1;
/** Room beside the line that must be free for it to go on, in heights, and between two of them. */
const ROOM = 1;
const APART = 4;

/** Room for this share of its length makes a line go on. */
const LEAST = 0.4;
/** How far out the line goes, in heights: at least, which is enough between planes, where nothing but its wave travels, and at most; and in turns. */
const REACH = { least: 48, most: 180, turns: 2 } as const;

const heightOf = ({ below, above }: Layers): number => Math.min(below.height, above.height);

/**
 * How far out the line would go, m. Where the wave that comes fades something radiates along with it, and only over a way on which the
 * two part by some turns nothing of that is felt: at a quarter of this copper gave back 2 % more power than went in.
 */
function reachOf(layers: Layers, wave: number): number {
  const height = heightOf(layers);
  const { below, above } = layers;
  if (above.height < Infinity && below.er === above.er) return REACH.least * height;
  const apart = wave / (Math.sqrt((below.er + above.er) / 2) - 1);
  return height * Math.min(REACH.most, Math.max(REACH.least, (REACH.turns * apart) / height));
}

/** How far behind a port there is no other copper, m. */
function roomBehind({ cells }: Mesh, { x, y, nx, ny, width }: Place, height: number): number {
  const half = width / 2 + ROOM * height;
  let room = Infinity;
  for (const { corners: c } of cells)
    for (let i = 0; i < c.length; i += 2) {
      const out = (c[i] - x) * nx + (c[i + 1] - y) * ny;
      const beside = Math.abs((c[i + 1] - y) * nx - (c[i] - x) * ny);
      if (out > 1e-8 && beside < half) room = Math.min(room, out);
    }
  return room;
}

/**
 * Ports behind which there is room for the line to go on. @param going those whose line goes on at all, by index
 * @param wave in the air in the middle of the band, m
 */
export function freePorts(mesh: Mesh, layers: Layers, wave: number, going: readonly number[]): number[] {
  const height = heightOf(layers);
  const reach = LEAST * reachOf(layers, wave);
  const places = going.map((p) => ({ p, place: placeOf(mesh, p) }));
  const meets = (p: Place, q: Place): boolean => {
    const alike = p.nx * q.nx + p.ny * q.ny;
    // Lines that go opposite ways part at once; beside one another they would be coupled for ever.
    if (alike < -0.5) return false;
    const room = (p.width + q.width) / 2 + (alike > 0.5 ? APART : ROOM) * height;
    for (let i = 0; i <= 12; i++)
      for (let j = 0; j <= 12; j++) {
        const [s, t] = [(i * reach) / 36, (j * reach) / 36];
        if (Math.hypot(p.x + s * p.nx - q.x - t * q.nx, p.y + s * p.ny - q.y - t * q.ny) < room) return true;
      }
    return false;
  };
  return places.flatMap(({ p, place }) =>
    roomBehind(mesh, place, height) >= reach && places.every((q) => q.p === p || !meets(place, q.place))
      ? [p]
      : [],
  );
}

/** A wave as rows of a port see it that stand the other way round than the cuts of its strip: mirrored. */
function alongRows(rows: readonly Row[], cuts: readonly number[], profile: Profile): Profile {
  const wide = cuts.slice(1).map((cut, j) => cut - cuts[j]);
  const off = (widths: readonly number[]): number =>
    rows.reduce((sum, { a, b }, j) => sum + (Math.hypot(b[0] - a[0], b[1] - a[1]) - widths[j]) ** 2, 0);
  if (off(wide) <= off([...wide].reverse())) return profile;
  return {
    along: Array.from(profile.along).reverse(),
    across: Array.from(profile.across, (x) => -x).reverse(),
  };
}

/**
 * Lets lines go on behind ports.
 * @param ports which of them, with how their lines' waves are spread, at one frequency or more
 * @param wave in the air in the middle of the band, m
 */
export function launched(
  mesh: Mesh,
  layers: Layers,
  wave: number,
  ports: readonly { readonly port: number; readonly profiles: readonly Profile[] }[],
): Launched {
  const height = heightOf(layers);
  const cells: Cell[] = [...mesh.cells];
  const bases: Half[][] = mesh.bases.map((halves) => [...halves]);
  const later: Half[][] = [];
  const own = bases.length;
  const launches: {
    port: number;
    sources: { later: number; out: number; fade: number; across: boolean; profile?: number }[];
  }[] = [];
  for (const { port, profiles: seen } of ports) {
    const place = placeOf(mesh, port);
    const { rows, nx, ny, x, y, width } = place;
    const { pitch, across: cuts } = mesh.ports[port];
    const profiles = seen.map((profile) => alongRows(rows, cuts, profile));
    const reach = Math.min(reachOf(layers, wave), roomBehind(mesh, place, height));
    const near = Math.max(NEAR.periods, Math.ceil((NEAR.heights * height) / pitch));
    const fade = (out: number): number => {
      const t = (out - FULL * reach) / ((1 - FULL) * reach);
      return t <= 0 ? 1 : t >= 1 ? 0 : Math.cos((Math.PI / 2) * t) ** 2;
    };
    const add = (cell: Cell): number => cells.push(cell) - 1;
    const sources: (typeof launches)[number]['sources'] = [];
    const put = (halves: Half[], out: number, across: boolean, profile?: number): void => {
      sources.push({ later: later.push(halves) - 1, out, fade: fade(out), across, profile });
    };
    /** One for each profile. */
    const spread = (halvesOf: (profile: Profile) => Half[], out: number, across: boolean): void =>
      profiles.forEach((profile, i) => put(halvesOf(profile), out, across, i));
    let before: readonly number[] = [];
    for (let k = 0; k < near; k++) {
      const here = rows.map((row) => add(cellBehind(place, row, k * pitch, (k + 1) * pitch)));
      if (k === 0) rows.forEach(({ basis }, j) => bases[basis].push(edgeHalf(here[j], cells[here[j]], 0, 1)));
      else
        spread(
          ({ along }) =>
            here.flatMap((c, j) => [
              scaled(edgeHalf(c, cells[c], 0, 1), along[j]),
              scaled(edgeHalf(before[j], cells[before[j]], 2, -1), along[j]),
            ]),
          k * pitch,
          false,
        );
      // Of the two sides of a cell that look along the port the one nearer to the next row.
      if (rows.length > 1)
        spread(
          ({ across }) =>
            here.slice(1).flatMap((c, j) => {
              const flip = (rows[0].b[0] - rows[0].a[0]) * -ny + (rows[0].b[1] - rows[0].a[1]) * nx > 0;
              const [up, down] = flip ? [3, 1] : [1, 3];
              return [
                scaled(edgeHalf(here[j], cells[here[j]], up, 1), across[j]),
                scaled(edgeHalf(c, cells[c], down, -1), across[j]),
              ];
            }),
          (k + 0.5) * pitch,
          true,
        );
      before = here;
    }
    // Further out the line is one cell wide.
    const [ux, uy] = [(-ny * width) / 2, (nx * width) / 2];
    let s = near * pitch;
    let size = pitch;
    let last: number | undefined;
    while (s < reach) {
      size = Math.max(size, Math.min(size * GROWTH, LARGEST * height));
      const [x0, y0] = [x + nx * s, y + ny * s];
      const [x1, y1] = [x0 + nx * size, y0 + ny * size];
      // Out is to the right of the edge that looks back.
      const c = add(
        cellOf(Float64Array.of(x0 + ux, y0 + uy, x0 - ux, y0 - uy, x1 - ux, y1 - uy, x1 + ux, y1 + uy)),
      );
      const back = edgeHalf(c, cells[c], 0, 1);
      if (last === undefined)
        spread(
          ({ along }) => [back, ...before.map((b, j) => scaled(edgeHalf(b, cells[b], 2, -1), along[j]))],
          s,
          false,
        );
      else put([back, edgeHalf(last, cells[last], 2, -1)], s, false);
      last = c;
      s += size;
    }
    launches.push({ port, sources });
  }
  // What is tested outside stands before what is not.
  const tests = launches.map(({ sources }) => sources.find((s) => !s.across)!.later);
  const order = [...tests, ...later.map((_, i) => i).filter((i) => !tests.includes(i))];
  const places = new Map(order.map((i, k) => [i, own + k]));
  return {
    mesh: { ...mesh, cells, bases: [...bases, ...order.map((i) => later[i])] },
    tested: own + tests.length,
    launches: launches.map(({ port, sources }, l) => ({
      port,
      test: own + l,
      sources: sources.map(({ later: i, ...source }) => ({ basis: places.get(i)!, ...source })),
    })),
  };
}
