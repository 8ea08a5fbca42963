import {
  analyseSection,
  crossSections,
  linePoint,
  lineKinds,
  pairDimension,
  pairImpedances,
  readPair,
  synthesiseCoplanar,
  synthesisePair,
  synthesiseWidth,
  type CrossSection,
  type Dimensions,
  type LinePoint,
  type MediumId,
  type SectionAnalysis,
  type SectionOrigin,
  type Shape,
  type Substrate,
} from '../../lines';
import { parts, type Face, type Property } from '../../parts';
import { formatQuantity, QuantityError } from '../../units';

/** What the Lines page may look at. */
export const SHEET_SHAPES = ['strip', 'pair', 'coplanar', 'grounded'] as const;
export type SheetShapeId = (typeof SHEET_SHAPES)[number];

/** The board and frequency that dimensions are looked for on. */
export interface SheetBoard {
  readonly medium: MediumId;
  readonly substrate: Substrate;
  readonly freq: number;
}

/** A way in which a shape is asked for: the faces whose values are typed. */
export interface SheetSystem {
  readonly id: string;
  readonly label: string;
  /** Across the line: each property's held face says one thing of its cross-section. */
  readonly across: readonly Property[];
  /**
   * Dimensions (m, in the order of the shape's) from what is held of each, SI.
   * @throws RangeError where there are none
   */
  dimensions(held: Readonly<Record<string, number>>, board: SheetBoard): readonly number[];
}

/** A shape of line with the ways to ask for it. */
export interface SheetShape {
  readonly id: SheetShapeId;
  readonly name: string;
  /** Media that it may lie in. */
  readonly media: readonly MediumId[];
  readonly systems: readonly SheetSystem[];
  analyse(board: SheetBoard, dimensions: readonly number[]): SectionAnalysis;
  origin(board: SheetBoard, dimensions: readonly number[]): SectionOrigin;
  /** Impedance and permittivity of each mode alone, for curves. */
  modes(board: SheetBoard, dimensions: readonly number[]): readonly LinePoint[];
  /** All faces across, SI. */
  faces(dimensions: readonly number[], analysis: SectionAnalysis): Readonly<Record<string, number>>;
  /** What is held when nobody has asked for anything. */
  readonly initial: Readonly<Record<string, string>>;
}

const answering = <S extends Shape>(
  _shape: S,
  section: (medium: MediumId) => CrossSection<S>,
): Pick<SheetShape, 'analyse' | 'origin' | 'modes'> => ({
  analyse: ({ medium, substrate, freq }, dimensions) =>
    analyseSection(section(medium), substrate, dimensions as Dimensions[S], freq),
  origin: ({ medium, substrate }, dimensions) =>
    section(medium).origin(substrate, dimensions as Dimensions[S]),
  modes({ medium, substrate, freq }, dimensions) {
    const kind = section(medium);
    const points = Array.from({ length: kind.modes }, linePoint);
    kind.prepare(substrate, dimensions as Dimensions[S]).impedanceAt(freq, points);
    return points;
  },
});

const own = (kind: string): readonly Property[] =>
  parts.get(kind)!.properties.filter((p) => p.otherwise === undefined);
const faceOf = (kind: string, name: string): Face =>
  own(kind)
    .flatMap((p) => p.faces)
    .find((f) => f.name === name)!;

/** Along a line of any shape. */
export const alongSheet: Property = own('line').find((p) => p.faces.some((f) => f.name === 'theta'))!;

const [acrossStrip] = own('line');

const strip: SheetShape = {
  id: 'strip',
  name: 'Single strip',
  media: ['microstrip', 'stripline'],
  systems: [
    {
      id: 'impedance',
      label: 'impedance',
      across: [acrossStrip],
      dimensions: ({ width, z0 }, { medium, substrate, freq }) => [
        width ?? synthesiseWidth(medium, substrate, z0, freq),
      ],
    },
  ],
  ...answering('strip', (medium) => crossSections.strip[medium]),
  faces: ([width], { modes }) => ({ width, z0: modes[0].z0 }),
  initial: { z0: '50 ohm', theta: '90 deg' },
};

const impedance = (name: string, label: string, help: string): Face => ({
  name,
  label,
  help,
  side: 'electrical',
  rule: { kind: 'impedance', min: 0, exclusive: true },
});
const width = faceOf('line-pair', 'width');
const gap = faceOf('line-pair', 'gap');

const asked = ({ label, rule }: Face, value: number): string =>
  `${formatQuantity(value, rule.kind, { digits: 4, typed: true })} ${label.toLowerCase()}`;

/** A system of a pair: two electrical faces that stand for the even and the odd impedance. */
function pairSystem(
  id: string,
  label: string,
  faces: readonly [Face, Face],
  /** Even and odd impedance from both. */
  modes: (a: number, b: number) => readonly [number, number],
  /** What the first and the second face are of a pair with these impedances. */
  read: (ze: number, zo: number) => readonly [number, number],
): SheetSystem {
  const [first, second] = faces;
  return {
    id,
    label,
    across: [
      { id: 'even', faces: [first, width] },
      { id: 'odd', faces: [second, gap] },
    ],
    dimensions(held, { medium, substrate, freq }) {
      if (held.width !== undefined && held.gap !== undefined) return [held.width, held.gap];
      if (held.width !== undefined) {
        const wanted = held[second.name];
        const miss = (ze: number, zo: number) => read(ze, zo)[1] / wanted;
        return [
          held.width,
          pairDimension(medium, substrate, { width: held.width, asked: asked(second, wanted), miss }, freq),
        ];
      }
      if (held.gap !== undefined) {
        const wanted = held[first.name];
        const miss = (ze: number, zo: number) => read(ze, zo)[0] / wanted;
        return [
          pairDimension(medium, substrate, { gap: held.gap, asked: asked(first, wanted), miss }, freq),
          held.gap,
        ];
      }
      const [ze, zo] = modes(held[first.name], held[second.name]);
      if (!(ze > zo))
        throw new QuantityError(
          `comes to ${Number(ze.toPrecision(4))} ohm even and ${Number(zo.toPrecision(4))} ohm odd; two strips side by side have more even than odd`,
        );
      const found = synthesisePair(medium, substrate, ze, zo, freq);
      return [found.width, found.gap];
    },
  };
}

const pair: SheetShape = {
  id: 'pair',
  name: 'Coupled pair',
  media: ['microstrip', 'stripline'],
  systems: [
    pairSystem(
      'modes',
      'even and odd',
      [faceOf('line-pair', 'ze'), faceOf('line-pair', 'zo')],
      (ze, zo) => [ze, zo],
      (ze, zo) => [ze, zo],
    ),
    pairSystem(
      'coupling',
      'impedance and coupling',
      [
        impedance(
          'z0',
          'Impedance',
          'What the pair is matched to as a coupler: the root of even times odd impedance.',
        ),
        {
          name: 'coupling',
          label: 'Coupling',
          help: 'How far what a quarter wave of the pair takes over lies below what goes in, as a positive number: (ze - zo)/(ze + zo) in dB.',
          side: 'electrical',
          rule: { kind: 'level', min: 0, exclusive: true },
        },
      ],
      pairImpedances,
      (ze, zo) => {
        const { z0, couplingDb } = readPair(ze, zo);
        return [z0, couplingDb];
      },
    ),
    pairSystem(
      'differential',
      'differential and common',
      [
        impedance(
          'common',
          'Common impedance',
          'Both strips together against ground: half the even impedance.',
        ),
        impedance(
          'differential',
          'Differential impedance',
          'From one strip to the other, driven against one another: twice the odd impedance.',
        ),
      ],
      (common, differential) => [2 * common, differential / 2],
      (ze, zo) => [ze / 2, 2 * zo],
    ),
  ],
  ...answering('pair', (medium) => crossSections.pair[medium]),
  faces([w, s], { modes: [even, odd] }) {
    const { z0, couplingDb, zCommon, zDifferential } = readPair(even.z0, odd.z0);
    return {
      width: w,
      gap: s,
      ze: even.z0,
      zo: odd.z0,
      z0,
      coupling: couplingDb,
      common: zCommon,
      differential: zDifferential,
    };
  },
  initial: { z0: '50 ohm', coupling: '15 dB', theta: '90 deg' },
};

const slot: Face = {
  name: 'slot',
  label: 'Slot',
  help: 'Distance from the strip to the ground at either side, which is taken to be without end.',
  side: 'physical',
  rule: { kind: 'length', min: 0, exclusive: true },
};
const [z0Face, widthFace] = ['z0', 'width'].map((name) => faceOf('line', name));

const coplanar = (id: 'coplanar' | 'grounded', name: string): SheetShape => {
  const kind = lineKinds[id === 'coplanar' ? 'coplanar' : 'grounded-coplanar'];
  return {
    id,
    name,
    media: ['microstrip'],
    systems: [
      {
        id: 'slot',
        label: 'slot given',
        across: [
          { id: 'across', faces: [z0Face, widthFace] },
          { id: 'beside', faces: [slot] },
        ],
        dimensions: (held, { substrate, freq }) =>
          held.width !== undefined
            ? [held.width, held.slot]
            : synthesiseCoplanar(kind, substrate, held.z0, { slot: held.slot }, freq),
      },
      {
        id: 'width',
        label: 'width given',
        across: [
          { id: 'across', faces: [z0Face, slot] },
          { id: 'strip', faces: [widthFace] },
        ],
        dimensions: (held, { substrate, freq }) =>
          held.slot !== undefined
            ? [held.width, held.slot]
            : synthesiseCoplanar(kind, substrate, held.z0, { width: held.width }, freq),
      },
    ],
    ...answering('coplanar', () => kind),
    faces: ([w, s], { modes }) => ({ width: w, slot: s, z0: modes[0].z0 }),
    initial: { z0: '50 ohm', slot: '0.2 mm', theta: '90 deg' },
  };
};

export const sheetShapes: Readonly<Record<SheetShapeId, SheetShape>> = {
  strip,
  pair,
  coplanar: coplanar('coplanar', 'Coplanar, air below'),
  grounded: coplanar('grounded', 'Coplanar over ground'),
};
