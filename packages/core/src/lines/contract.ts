import type { Ends } from './among';

/** The cross-section's materials and heights, in SI units. `cover` is the lid's distance above the dielectric (Infinity: open). */
export interface Substrate {
  readonly er: number;
  readonly tand: number;
  /** Microstrip: dielectric thickness; stripline: ground-plane spacing. m */
  readonly height: number;
  /** Conductor thickness in m; 0 means vanishing geometry but many skin depths of metal. */
  readonly thickness: number;
  /** Bulk conductivity in S/m. */
  readonly conductivity: number;
  /** Rms surface roughness in m. */
  readonly roughness: number;
  readonly cover: number;
  /** Stripline: distance of the strip's middle from the middle between the planes, m; absent: none. */
  readonly offCentre?: number;
  /** A board bent along its lines: the length of copper over what it was while flat; absent: 1. */
  readonly stretch?: number;
  /** One of many like boards, between these ends; static values are then read from a few of them. Absent: it stands for itself. */
  readonly among?: Among;
}

/** Between which ends boards of one kind lie; what is left out is the same in all of them. */
export interface Among {
  readonly er?: Ends;
  /** m */
  readonly height?: Ends;
  /** m */
  readonly thickness?: Ends;
}

export type LineModelLevel = 'dispersive' | 'static';

/** Properties of a line at one frequency. Attenuations in Np/m. */
export interface LinePoint {
  z0: number;
  eeff: number;
  alphaConductor: number;
  alphaDielectric: number;
}

export interface LineWarning {
  readonly code: string;
  readonly message: string;
}

/** What a mode is at zero frequency. */
export interface StaticPoint {
  readonly z0: number;
  readonly eeff: number;
}

/** A cross-section of fixed dimensions whose frequency-independent work is done; everything is given per mode. */
export interface PreparedSection {
  readonly statics: readonly StaticPoint[];
  /** Fills a point per mode for frequency `f` in Hz (0 allowed); allocates nothing. */
  at(f: number, out: readonly LinePoint[]): void;
  /** Impedance in ohm and effective permittivity only, for synthesis: the attenuations in `out` are left alone. */
  impedanceAt(f: number, out: readonly LinePoint[]): void;
}

export type MediumId = 'microstrip' | 'stripline';

/** What surrounds the copper, one axis of a cross-section; the shape of the copper in it is the other. */
export interface Medium {
  readonly id: MediumId;
  readonly name: string;
  /** Ground planes that carry the return current. */
  readonly grounds: 1 | 2;
  /** One dielectric all round: waves are TEM and know no dispersion. */
  readonly homogeneous: boolean;
  /** The substrate on which a sheet stands for metal that has a thickness: planes are as far from it as from the faces of the metal. */
  sheeted(substrate: Substrate): Substrate;
  /** How far outside of the edge of thick metal that sheet has its own, far from other edges, m. */
  outward(substrate: Substrate): number;
  /** Why a substrate cannot be computed at all, or undefined: the field at fault and the reason in words. */
  refuse(
    substrate: Substrate,
  ): { field: Exclude<keyof Substrate, 'stretch' | 'among'>; message: string } | undefined;
}

/** Shapes of copper; each has its dimensions (m) in this order. */
export interface Dimensions {
  readonly strip: readonly [width: number];
  /** Two equal strips; their modes are the even and the odd one. */
  readonly pair: readonly [width: number, gap: number];
  /** A strip between side grounds without end, a slot away. */
  readonly coplanar: readonly [width: number, slot: number];
}
export type Shape = keyof Dimensions;

/** Where static values come from, and how good they are. */
export interface SectionOrigin {
  /** What answers. */
  readonly answers: string;
  /** How far it may be off, relative; 0 where it is exact. */
  readonly error: number;
  /** The closed form that one would take instead, with how far it is off here, relative. */
  readonly closed?: {
    readonly source: string;
    readonly z0: number;
    readonly eeff: number;
  };
}

/** A shape of copper in a medium: a file of its own behind this contract. */
export interface CrossSection<S extends Shape = Shape> {
  readonly name: string;
  readonly shape: S;
  /** One paragraph for help texts: what the model is, where it comes from, how good it is. */
  readonly about: string;
  /** One mode, or the even and the odd one. */
  readonly modes: 1 | 2;
  prepare(substrate: Substrate, dimensions: Dimensions[S], level?: LineModelLevel): PreparedSection;
  /** Where its static values come from. */
  origin(substrate: Substrate, dimensions: Dimensions[S]): SectionOrigin;
  /** Frequency in Hz above which the first higher-order mode propagates. */
  higherOrderMode(substrate: Substrate, dimensions: Dimensions[S]): number;
  /** Published ranges that this line leaves at frequency `f`, in words. */
  warnings(substrate: Substrate, dimensions: Dimensions[S], f: number): LineWarning[];
}

/** A point to be filled. */
export const linePoint = (): LinePoint => ({ z0: 0, eeff: 0, alphaConductor: 0, alphaDielectric: 0 });
