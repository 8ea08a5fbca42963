import { layOut } from '../../src/artwork';
import { answer, solvedSubject } from '../../src/levels';
import { forms, scaledBy } from '../../src/junctions/contract';
import {
  curveCopper,
  isHoused,
  junctionCopper,
  pairEndCopper,
  type SingleJunction,
} from '../../src/junctions/solved';
import { curved, curvedLine, provideTables, storedIn, type Square } from '../../src/junctions';
import { junctionTables } from '../../src/junctions/tables';
import { media, Sections, type MediumId, type Substrate } from '../../src/lines';
import { C0, drive } from '../../src/numeric';
import {
  portPiece,
  resolveDesign,
  simulate,
  type CircuitPiece,
  type Piece,
  type Project,
} from '../../src/network';
import { parts, realValues } from '../../src/parts';
import { layersOf, prepareSteps } from '../../src/planar';
import { made, pieceOf, response, withDesign } from '../helpers';
import type { Group } from './contract';

const MM = 1e-3;

/** A part with its faces, between lines of these widths, as copper is solved: dimensions in mm in the order of the kind. */
interface Tried {
  readonly kind: SingleJunction;
  readonly dimensions: readonly number[];
  readonly faces: Readonly<Record<string, number>>;
  readonly part?: string;
  readonly settings?: Readonly<Record<string, string>>;
}

const end = (width: number): Tried => ({ kind: 'open-end', dimensions: [width], faces: { width } });
const step = (w1: number, w2: number): Tried => ({ kind: 'step', dimensions: [w1, w2], faces: { w1, w2 } });
const gap = (w1: number, w2: number, wide: number): Tried => ({
  kind: 'gap',
  dimensions: [w1, w2, wide],
  faces: { w1, w2, gap: wide, c: 0 },
});
/** @param share of a right angle */
const bend = (shape: 'square' | 'mitred', width: number, share = 1): Tried => ({
  kind: share === 1 ? `${shape}-bend` : `${shape}-corner`,
  part: 'bend',
  dimensions: [width, share],
  faces: { width, angle: (1e3 * share * Math.PI) / 2, radius: 2 * width },
  settings: { shape, side: 'left' },
});
const tee = (w1: number, w2: number, w3: number): Tried => ({
  kind: 'tee',
  dimensions: [w1, w2, w3],
  faces: { w1, w2, w3 },
});
/** Arms in line of one width, the two across it each of its own. */
const cross = (through: number, left: number, right: number): Tried => ({
  kind: 'cross',
  dimensions: [through, left, right],
  faces: { w1: through, w2: through, w3: left, w4: right },
});
/**
 * The copper is meshed for a band so many times as high: on the mesh of the frequency alone an open end is 0.003 off what it is
 * on this one, which is near that of the tables.
 */
const FINER = 2.5;

const inS = (a: Square, b: Square): number =>
  Math.max(...a.re.map((x, i) => Math.hypot(x - b.re[i], a.im[i] - b.im[i])));

/** Boards. */
const ptfe = { er: 2.94, height: 0.508 * MM, cover: Infinity };
const ceramic = { er: 9.8, height: 0.635 * MM, cover: Infinity };
const between = { er: 2.94, height: 1.016 * MM, cover: Infinity };

/** In the share of the power into a pin that comes out of none. */
function inLoss(a: Square, b: Square): number {
  const n = Math.sqrt(a.re.length);
  const loss = ({ re, im }: Square, from: number) =>
    1 - re.reduce((sum, x, i) => sum + (i % n === from ? x * x + im[i] * im[i] : 0), 0);
  return Math.max(...Array.from({ length: n }, (_, from) => Math.abs(loss(a, from) - loss(b, from))));
}

/** S against 50 ohm of a part by itself at the modelled level. @param values in SI units */
function modelled(
  kind: string,
  values: Readonly<Record<string, number>>,
  settings: Readonly<Record<string, string>>,
  sections: Sections,
  f: number,
  pins: number,
): Square {
  const { medium, substrate } = sections;
  const [re, im] = [new Float64Array(pins ** 2), new Float64Array(pins ** 2)];
  parts
    .get(kind)!
    .models!.modelled.electrical(
      { values: realValues(values), settings, facts: {} },
      {
        medium: media[medium],
        substrate,
        f0: f,
        data: () => undefined,
        section: (shape, ...of) => sections.get(shape, ...of),
      },
    )
    .scatter(f, 50, re, im);
  return { re, im };
}

/** Difference, in S against 50 ohm if not said otherwise, between a part at the modelled level and its copper solved. */
function differences(
  medium: MediumId,
  { thickness = 0, ...board }: Pick<Substrate, 'er' | 'height' | 'cover'> & { readonly thickness?: number },
  f: number,
  tried: readonly Tried[],
  between = inS,
): number[] {
  const substrate: Substrate = { ...board, tand: 0, thickness, conductivity: 5.8e7, roughness: 0 };
  const sections = new Sections(medium, substrate);
  provideTables(junctionTables);
  try {
    return tried.map(({ kind, dimensions, faces, part, settings = {} }) => {
      const layers = layersOf(medium, substrate);
      const thin = junctionCopper(
        kind,
        scaledBy(forms[kind], dimensions, MM),
        layers,
        medium === 'microstrip' && isHoused(board.height / board.cover),
      );
      const copper = { ...thin, metal: { ...thin.metal, thickness } };
      const solved = drive(prepareSteps(copper, { start: f, stop: FINER * f }, 'fine')).at(f);
      const values = Object.fromEntries(Object.entries(faces).map(([k, x]) => [k, x * MM]));
      return between(modelled(part ?? kind, values, settings, sections, f, copper.ports.length), solved);
    });
  } finally {
    provideTables([]);
  }
}

/** A board's metal that none of this is about. */
const line = { tand: 0, thickness: 0, conductivity: 1e30, roughness: 0 };

/** The same of arcs of a line. @param tried width and radius, mm, and angle, rad */
function curveDifferences(
  medium: MediumId,
  board: Pick<Substrate, 'er' | 'height' | 'cover'>,
  f: number,
  tried: readonly (readonly [width: number, radius: number, angle: number])[],
): number[] {
  const substrate: Substrate = { ...board, ...line };
  const sections = new Sections(medium, substrate);
  provideTables(junctionTables);
  try {
    return tried.map(([w, r, angle]) => {
      const [width, radius] = [w * MM, r * MM];
      const housed = medium === 'microstrip' && isHoused(board.height / board.cover);
      const copper = curveCopper([width, radius], angle, layersOf(medium, substrate), housed);
      const solved = drive(prepareSteps(copper, { start: f, stop: FINER * f }, 'fine')).at(f);
      const values = { width, radius, turn: angle, lead: 0, length: radius * angle };
      return inS(modelled('line', values, {}, sections, f, 2), solved);
    });
  } finally {
    provideTables([]);
  }
}

const port = (number: number, node: string): Piece =>
  pieceOf(`p${number}`, 'port', { z: '50 ohm' }, [node], { number: `${number}` });

/** The same of a whole design, whose copper may have a thickness and lose, with what is mounted on it. */
function wholeDifference(project: Project, f: number): number {
  const resolved = resolveDesign(project, project.designs[0]);
  const { copper, nodes, rest } = solvedSubject(resolved, layOut(resolved))!;
  provideTables(junctionTables);
  try {
    const sample = drive(prepareSteps(copper, { start: f, stop: FINER * f }, 'fine')).at(f);
    const known = answer({ ...rest, solved: { key: '', nodes, samples: [sample] } }, () => undefined);
    return inS(response(project, 'modelled', [f]), drive(known.sample(Float64Array.of(f))));
  } finally {
    provideTables([]);
  }
}

/** The same of pieces on 0.508 mm of permittivity 2.94. */
function designDifference(f: number, ...pieces: readonly Piece[]): number {
  const { project, design } = made('quarter-wave');
  return wholeDifference(withDesign(project, { ...design, pieces }), f);
}

/** Pieces in a row between two ports: their kinds, faces and settings. */
const inRow = (
  ...pieces: readonly (readonly [
    kind: string,
    held: Record<string, string>,
    settings?: Record<string, string>,
  ])[]
): Piece[] => [
  port(1, 'n0'),
  ...pieces.map(([kind, held, settings], i) =>
    pieceOf(`x${i}`, kind, held, [`n${i}`, `n${i + 1}`], settings),
  ),
  port(2, `n${pieces.length}`),
];

/** The pieces that stand at a pair's pins, by the kind of its ends: ports are in the order of `pairEndCopper`. */
const endPieces: Readonly<Record<'pair-end' | 'pair-end-bent' | 'pair-bends', readonly string[]>> = {
  'pair-end': ['port', 'open-end', 'open-end', 'port'],
  'pair-end-bent': ['bend', 'open-end', 'open-end', 'bend'],
  'pair-bends': ['bend', 'bend', 'bend', 'bend'],
};

/**
 * The same of two strips beside one another with two ends alike, in S against 50 ohm.
 * @param tried width, gap and length of the strips, and by how much longer each is to its open end, mm
 */
function pairDifferences(
  ends: keyof typeof endPieces,
  medium: MediumId,
  board: Pick<Substrate, 'er' | 'height' | 'cover'>,
  f: number,
  tried: readonly (readonly number[])[],
): number[] {
  // Along strips so long what metal loses would count.
  const substrate: Substrate = { ...board, ...line };
  provideTables(junctionTables);
  try {
    return tried.map((sizes) => {
      const [width, gap, length, longer = 0] = sizes.map((x) => x * MM);
      const housed = medium === 'microstrip' && isHoused(board.height / board.cover);
      const copper = pairEndCopper(
        ends === 'pair-bends' ? 'pair-bends-even' : ends,
        [width, gap],
        length + 2 * longer,
        layersOf(medium, substrate),
        housed,
      );
      // The ports look at where the strips part, their planes at where the pair ends.
      const ports = copper.ports.map((port) => ({ ...port, plane: port.plane + longer }));
      const solved = drive(prepareSteps({ ...copper, ports }, { start: f, stop: FINER * f }, 'fine')).at(f);
      const piece = (
        kind: string,
        nodes: readonly string[],
        values: Readonly<Record<string, number>>,
        more: Partial<CircuitPiece> = {},
      ): CircuitPiece => ({ kind, nodes, values: realValues(values), settings: {}, facts: {}, ...more });
      const facts: Record<string, readonly number[]> = {};
      // Ports one after the other along the first strip, then along the second one.
      const number = (pin: number) => (ends === 'pair-bends' ? [1, 3, 2, 4][pin] : pin === 0 ? 1 : 2);
      const around = endPieces[ends].flatMap((kind, pin) => {
        const [node, port] = [`n${pin}`, portPiece(`p${pin}`, { re: 50, im: 0 }, number(pin))];
        if (kind === 'port') return [portPiece(node, { re: 50, im: 0 }, number(pin))];
        if (kind === 'open-end') {
          facts[`open${pin + 1}`] = [longer];
          return [piece('open-end', [node], { width, trim: longer })];
        }
        facts[`away${pin + 1}`] = [Math.PI / 2];
        const settings = { shape: 'mitred', side: 'left' };
        return [piece('bend', [node, `p${pin}`], { width, angle: Math.PI / 2 }, { settings }), port];
      });
      const pair = piece('line-pair', ['n0', 'n1', 'n2', 'n3'], { width, gap, length }, { facts });
      const circuit = { model: 'modelled', medium, substrate, f0: f, pieces: [pair, ...around] } as const;
      const { re, im } = simulate(circuit, Float64Array.of(f), () => undefined);
      return inS({ re, im }, solved);
    });
  } finally {
    provideTables([]);
  }
}

export const tables: Group = {
  name: 'Junctions from tables',
  cases: [
    {
      what: 'Junctions in microstrip',
      against: 'the field solution of each, fine mesh, in S against 50 ohm',
      over: 'er 2.94, 0.508 mm, at 10 and 22 GHz, 0.3 and 0.8 of the highest: end, step, gap, bends',
      bound: 0.006,
      absolute: true,
      errors: () =>
        [10e9, 22e9].flatMap((f) =>
          differences('microstrip', { er: 2.94, height: 0.508 * MM, cover: Infinity }, f, [
            end(1.3),
            step(0.5, 2.2),
            gap(1.3, 1.3, 0.15),
            bend('square', 0.9),
            bend('mitred', 1.3),
          ]),
        ),
    },
    {
      what: 'Tees of unequal arms in microstrip',
      against: 'the field solution of each, fine mesh, in S against 50 ohm',
      over: 'er 2.94, 0.508 mm, at 10 GHz',
      bound: 0.006,
      absolute: true,
      errors: () =>
        differences('microstrip', { er: 2.94, height: 0.508 * MM, cover: Infinity }, 10e9, [
          tee(1.3, 2.1, 1.3),
          tee(2.1, 1.3, 0.6),
        ]),
    },
    {
      what: 'Bends of any angle, unequal gaps',
      against: 'the field solution of each, fine mesh, in S against 50 ohm',
      over: 'er 2.94, 0.508 mm, at 10 GHz: 45, 30 and 110 deg; and in stripline of 1.016 mm',
      bound: 0.006,
      absolute: true,
      errors: () => [
        ...differences('microstrip', { er: 2.94, height: 0.508 * MM, cover: Infinity }, 10e9, [
          bend('mitred', 1.3, 0.5),
          bend('square', 1.3, 1 / 3),
          bend('mitred', 0.6, 1.22),
          gap(1.3, 0.5, 0.15),
        ]),
        ...differences('stripline', { er: 2.94, height: 1.016 * MM, cover: Infinity }, 8e9, [
          bend('mitred', 0.7, 0.5),
          gap(0.4, 1.1, 0.1),
        ]),
      ],
    },
    {
      what: 'Crosses',
      against: 'the field solution of each, fine mesh, in S against 50 ohm',
      over: 'er 2.94, 0.508 mm, at 8 GHz, and in stripline of 1.016 mm',
      bound: 0.006,
      absolute: true,
      errors: () => [
        ...differences('microstrip', { er: 2.94, height: 0.508 * MM, cover: Infinity }, 8e9, [
          cross(1.3, 1.3, 1.3),
          cross(0.8, 1.3, 0.5),
        ]),
        ...differences('stripline', { er: 2.94, height: 1.016 * MM, cover: Infinity }, 8e9, [
          cross(0.7, 0.7, 0.4),
        ]),
      ],
    },
    {
      what: 'Junctions in microstrip of high permittivity',
      against: 'the field solution of each, fine mesh, in S against 50 ohm',
      over: 'er 9.8, 0.635 mm, at 8 GHz: step, bend, tee',
      bound: 0.006,
      absolute: true,
      errors: () =>
        differences('microstrip', { er: 9.8, height: 0.635 * MM, cover: Infinity }, 8e9, [
          step(1.5, 0.4),
          bend('square', 0.62),
          tee(0.62, 0.62, 0.4),
        ]),
    },
    {
      what: 'Ends, gaps and steps of thick metal',
      against: 'the field solution of each, fine mesh, in S against 50 ohm',
      over: '35 um at 8 GHz: er 2.94, 0.508 mm, open and under a lid at 2 heights; stripline of 1.016 mm',
      bound: 0.006,
      absolute: true,
      errors: () => {
        const thick = { thickness: 35e-6 };
        const each = [end(1.3), end(2.5), gap(1.3, 1.3, 0.1), step(1.7, 0.5)];
        return [
          ...differences('microstrip', { ...ptfe, ...thick }, 8e9, each),
          ...differences('microstrip', { ...ptfe, cover: 1.016 * MM, ...thick }, 5e9, each),
          ...differences('stripline', { ...between, ...thick }, 8e9, each),
        ];
      },
    },
    {
      what: 'Open ends and gaps behind lines',
      against: 'the field solution of the whole copper, fine mesh, in S against 50 ohm',
      over: 'er 2.94, 0.508 mm, at 4 GHz: the end of 8 mm, gaps of 0.1 and 0.3 mm between lines of 6 mm',
      bound: 0.005,
      absolute: true,
      errors: () => {
        const line = (length: string) => ['line', { width: '1.27 mm', length }] as const;
        return [
          designDifference(
            4e9,
            port(1, 'i'),
            pieceOf('line', 'line', { width: '1.27 mm', length: '8 mm' }, ['i', 'o']),
            pieceOf('end', 'open-end', {}, ['o']),
          ),
          ...['0.1 mm', '0.3 mm'].map((gap) =>
            designDifference(4e9, ...inRow(line('6 mm'), ['gap', { gap }], line('6 mm'))),
          ),
        ];
      },
    },
    {
      what: 'Curved lines',
      against: 'the field solution of each, fine mesh, in S against 50 ohm',
      over: 'er 2.94, 0.508 mm, at 8 GHz: 30 to 110 deg, from 1.2 widths on; er 9.8 at 6 GHz; a quarter under a lid at 2 heights; stripline of 1.016 mm',
      bound: 0.005,
      absolute: true,
      errors: () => [
        ...curveDifferences('microstrip', ptfe, 8e9, [
          [1.27, 2, Math.PI / 2],
          [1.27, 1.6, Math.PI / 6],
          [0.5, 1.2, 1.9],
        ]),
        ...curveDifferences('microstrip', ceramic, 6e9, [[0.62, 1.3, Math.PI / 3]]),
        ...curveDifferences('microstrip', { ...ptfe, cover: 1.016 * MM }, 5e9, [[1.27, 2, Math.PI / 2]]),
        ...curveDifferences('stripline', between, 8e9, [[0.8, 1.1, Math.PI / 2]]),
      ],
    },
    {
      what: 'Curves beside one another and beside corners',
      against: 'the field solution of the copper between two ports, fine mesh, in S against 50 ohm',
      over: 'er 2.94, 0.508 mm, at 10 GHz: two arcs of 60 deg to the same side and to both, an arc 0.8 mm behind a mitred bend to the same side and the other',
      bound: 0.012,
      absolute: true,
      errors: () => {
        const line = (more: Record<string, string>) => ({ width: '0.7 mm', ...more });
        const straight = ['line', line({ length: '1.5 mm' })] as const;
        const arc = (turn: number, lead = 0) =>
          [
            'line',
            line({
              turn: `${turn} deg`,
              radius: '1 mm',
              lead: `${lead} mm`,
              length: `${(Math.PI / 3 + lead).toFixed(6)} mm`,
            }),
          ] as const;
        const corner = ['bend', {}, { shape: 'mitred', side: 'left' }] as const;
        return [1, -1].flatMap((side) => [
          designDifference(10e9, ...inRow(straight, arc(60), arc(60 * side), straight)),
          designDifference(10e9, ...inRow(straight, corner, arc(60 * side, 0.8), straight)),
        ]);
      },
    },
    {
      what: 'Tees with arms that curve',
      against: 'the field solution of the copper between three ports, fine mesh, in S against 50 ohm',
      over: 'er 2.94, 0.508 mm, at 5 GHz: one arm or both away from the side arm, by 90 deg, from 0.3 mm behind the tee on',
      bound: 0.012,
      absolute: true,
      errors: () =>
        [true, false].map((both) => {
          const arm = (n: number, from: string, turn: string) =>
            pieceOf(
              `arm${n}`,
              'line',
              { width: '0.7 mm', length: '5.5 mm', ...(turn && { turn, radius: '1.6 mm', lead: '0.65 mm' }) },
              [from, `o${n}`],
            );
          return designDifference(
            5e9,
            port(1, 'i'),
            pieceOf('feed', 'line', { width: '0.7 mm', length: '4 mm' }, ['i', 'in']),
            pieceOf('tee', 'tee', {}, ['down', 'up', 'in'], { side: 'left' }),
            arm(2, 'up', '-90 deg'),
            arm(3, 'down', both ? '90 deg' : ''),
            port(2, 'o2'),
            port(3, 'o3'),
          );
        }),
    },
    {
      what: 'Couplers, with what stands between their sections',
      against: 'the field solution of the whole copper, fine mesh, in S against 50 ohm',
      over: 'er 2.94, 0.508 mm: 20 dB at 3 GHz in one section and in three',
      bound: 0.012,
      absolute: true,
      errors: () =>
        ['1', '3'].map((sections) =>
          wholeDifference(made('coupler', { freq: '3 GHz', coupling: '20 dB', sections }).project, 3e9),
        ),
    },
    {
      what: 'Mounted parts between the ends of two lines',
      against: 'the field solution of both, fine mesh, joined by the part, in S against 50 ohm',
      over: 'er 2.94, 0.508 mm, at 4 GHz: 0 and 50 ohm over 1 mm, 0 ohm over 0.3 mm and between unequal widths',
      bound: 0.006,
      absolute: true,
      errors: () =>
        (
          [
            ['0 ohm', '1 mm', '1.27 mm'],
            ['50 ohm', '1 mm', '1.27 mm'],
            ['0 ohm', '0.3 mm', '1.27 mm'],
            ['0 ohm', '1 mm', '0.7 mm'],
          ] as const
        ).map(([r, span, width]) =>
          designDifference(
            4e9,
            ...inRow(
              ['line', { width, length: '6 mm' }],
              ['resistor', { r, span }],
              ['line', { width: '1.27 mm', length: '6 mm' }],
            ),
          ),
        ),
    },
    {
      what: 'Curves of wide stripline, by how much they are shorter',
      against:
        'a wave between plates with magnetic walls, w²/24r² (1 - 0.4 k²w²) of its length, to second order in width over radius',
      over: 'w/b 3.5, radius 3 to 8 widths, up to half of the second mode',
      bound: 0.1,
      errors: () => {
        provideTables(junctionTables);
        try {
          const width = 3.5 * between.height;
          return [3, 5, 8].flatMap((widths) => {
            const radius = widths * width;
            const stored = storedIn('curve', 'stripline', { ...line, ...between }, [width, radius])!;
            // Many turns, so that their ends do not count.
            const arc = 1e3 * radius;
            const at = curvedLine(stored, width, radius, arc, between.height / 2);
            const plate = width + (2 * Math.LN2 * between.height) / Math.PI;
            const out = curved();
            return [0.02, 0.1, 0.25].map((share) => {
              const beta = (2 * Math.PI * share) / plate;
              at((beta * C0) / (2 * Math.PI * Math.sqrt(between.er)), beta, out);
              const expected = (plate / radius) ** 2 / 24;
              const dynamic = expected * (1 - 0.4 * (beta * plate) ** 2);
              return Math.abs(1 - out.phase / (beta * arc) - dynamic) / expected;
            });
          });
        } finally {
          provideTables([]);
        }
      },
    },
    {
      what: 'Open ends of coupled lines',
      against: 'the field solution of two strips with two such ends, fine mesh, in S against 50 ohm',
      over: 'er 2.94, 0.508 mm, at 10 GHz, and 0.3 mm cut off, and where the other strip bends; er 9.8; under a lid at 2 heights; stripline of 1.016 mm',
      bound: 0.012,
      absolute: true,
      errors: () => [
        ...pairDifferences('pair-end', 'microstrip', ptfe, 10e9, [
          [0.9, 0.1, 4.6],
          [1.2, 0.3, 3],
          [1.2, 0.3, 4.6, -0.3],
        ]),
        ...pairDifferences('pair-end-bent', 'microstrip', ptfe, 8e9, [[0.9, 0.15, 4.6]]),
        ...pairDifferences('pair-end', 'microstrip', ceramic, 6e9, [[0.5, 0.2, 4.8]]),
        ...pairDifferences('pair-end', 'microstrip', { ...ptfe, cover: 1.016 * MM }, 5e9, [[0.9, 0.15, 5]]),
        ...pairDifferences('pair-end', 'stripline', between, 8e9, [
          [0.6, 0.1, 5],
          [0.6, 0.1, 5, -0.2],
        ]),
        ...pairDifferences('pair-end-bent', 'stripline', between, 8e9, [[0.6, 0.1, 5]]),
      ],
    },
    {
      what: 'Coupled lines that bend away',
      against: 'the field solution of two strips with four mitred corners, fine mesh, in S against 50 ohm',
      over: 'er 2.94, 0.508 mm, at 8 GHz; er 9.8, 0.635 mm, at 5 GHz; stripline of 1.016 mm at 8 GHz',
      bound: 0.012,
      absolute: true,
      errors: () => [
        ...pairDifferences('pair-bends', 'microstrip', ptfe, 8e9, [[1.2, 0.2, 4.8]]),
        ...pairDifferences('pair-bends', 'microstrip', ceramic, 5e9, [[0.5, 0.2, 5]]),
        ...pairDifferences('pair-bends', 'stripline', between, 8e9, [[0.6, 0.12, 5]]),
      ],
    },
    {
      what: 'What wide junctions radiate',
      against: 'the field solution of each, fine mesh, as a share of the power that comes in',
      over: '0.508 mm at 10 GHz: bends on er 9.8 and 2.94, a step',
      bound: 0.008,
      absolute: true,
      errors: () =>
        [9.8, 2.94].flatMap((er) =>
          differences(
            'microstrip',
            { er, height: 0.508 * MM, cover: Infinity },
            10e9,
            [bend('square', 1.7), bend('mitred', 1.8, 0.6), step(1.7, 0.5)],
            inLoss,
          ),
        ),
    },
    {
      what: 'What junctions radiate under a lid far up',
      against: 'the field solution of each, fine mesh, as a share of the power that comes in',
      over: 'er 2.94, 0.508 mm, lid at 7 heights, at 16 GHz, 0.6 of the highest: end, bend',
      bound: 0.012,
      absolute: true,
      errors: () =>
        differences(
          'microstrip',
          { ...ptfe, cover: 7 * ptfe.height },
          16e9,
          [end(1.3), bend('square', 1.3)],
          inLoss,
        ),
    },
    {
      what: 'Junctions under a lid',
      against: 'the field solution of each, fine mesh, in S against 50 ohm',
      over: 'er 2.94, 0.77 mm, lid at 0.9 and 3 heights, at 3 GHz: end, step, bend, tee',
      bound: 0.006,
      absolute: true,
      errors: () =>
        [0.9, 3].flatMap((heights) =>
          differences('microstrip', { er: 2.94, height: 0.77 * MM, cover: heights * 0.77 * MM }, 3e9, [
            end(1.7),
            step(1, 2.9),
            bend('mitred', 1.7),
            tee(1.7, 1.7, 1),
          ]),
        ),
    },
    {
      what: 'Junctions in stripline',
      against: 'the field solution of each, fine mesh, in S against 50 ohm',
      over: 'er 2.94, 1.016 mm, at 10 GHz: end, step, bend, tee',
      bound: 0.005,
      absolute: true,
      errors: () =>
        differences('stripline', { er: 2.94, height: 1.016 * MM, cover: Infinity }, 10e9, [
          end(0.7),
          step(0.3, 1.6),
          bend('square', 0.7),
          tee(0.7, 1.1, 0.5),
        ]),
    },
  ],
};
