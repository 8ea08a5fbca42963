import type { Complex } from '../numeric';
import type { Electrical } from '../network/electrical';
import type { Medium, PreparedLine, Substrate } from '../lines';
import type { SData } from '../results';
import type { QuantityRule } from '../units';

/** One way to give a property of a part. Of a property's faces exactly one is held; the others follow. */
export interface Face {
  readonly name: string;
  readonly label: string;
  /** Definition, meaning and range, shown where the field stands. */
  readonly help: string;
  readonly side: 'electrical' | 'physical';
  readonly rule: QuantityRule;
}

/** A property of a part: one face, or several that follow from one another. */
export interface Property {
  readonly id: string;
  readonly faces: readonly Face[];
}

/** Values of all faces in SI units, by face name. */
export type PartValues = Readonly<Record<string, Complex>>;

/** What surrounds a part when its faces are worked out. */
export interface ResolveContext {
  readonly medium: Medium;
  readonly substrate: Substrate;
  /** Design frequency, Hz. */
  readonly f0: number;
  /** Width in m for an impedance at f0. @throws UnreachableImpedance */
  width(z0: number): number;
  /** Impedance in ohm and effective permittivity of a width at f0. */
  line(width: number): { readonly z0: number; readonly eeff: number };
  readonly data: (id: string) => SData | undefined;
}

/** What surrounds a part when it is simulated. */
export interface ElectricalContext {
  readonly medium: Medium;
  readonly substrate: Substrate;
  readonly f0: number;
  /** A line of that width with its static work done; parts of equal width share it. */
  prepared(width: number): PreparedLine;
  readonly data: (id: string) => SData | undefined;
}

export type Level = 'ideal' | 'modelled';

export interface Point {
  readonly x: number;
  readonly y: number;
}

/** Where a neighbour joins: the place and the outward direction in radians. */
export interface ArtworkPin extends Point {
  readonly angle: number;
}

/** A part's picture in its own coordinates (m): pin 1 at the origin, looking towards -x. */
export interface Artwork {
  readonly copper: readonly (readonly Point[])[];
  readonly pins: readonly ArtworkPin[];
  /** Outline of what is not copper: a mounted part, a block, a load. */
  readonly body?: readonly (readonly Point[])[];
}

/** Settings of a part that are not quantities: which data a block holds, a port's number. */
export type PartSettings = Readonly<Record<string, string>>;

/** One kind of part: a folder of its own behind this contract. */
export interface PartDefinition {
  readonly kind: string;
  readonly name: string;
  readonly about: string;
  readonly properties: readonly Property[];
  /** Properties that may be left out. */
  readonly optional?: readonly string[];
  pins(settings: PartSettings, data: (id: string) => SData | undefined): number;
  /**
   * All faces from the held ones.
   * @throws RangeError in words where the physics cannot follow (an impedance no width has)
   */
  resolve(held: PartValues, context: ResolveContext): PartValues;
  /** Absent for a port, which the solution treats itself. */
  electrical?(
    values: PartValues,
    settings: PartSettings,
    level: Level,
    context: ElectricalContext,
  ): Electrical;
  /** @param neighbourWidth width in m of the line this part meets, for parts without one of their own */
  artwork(values: PartValues, neighbourWidth: number, pins: number): Artwork;
}

/** A rectangle from (0, -w/2) to (length, w/2). */
export const bar = (length: number, width: number): Point[] => [
  { x: 0, y: -width / 2 },
  { x: length, y: -width / 2 },
  { x: length, y: width / 2 },
  { x: 0, y: width / 2 },
];
