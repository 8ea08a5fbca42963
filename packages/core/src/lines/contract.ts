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

/** A line of fixed cross-section whose frequency-independent work is done. */
export interface PreparedLine {
  readonly z0Static: number;
  readonly eeffStatic: number;
  /** Fills `out` for frequency `f` in Hz (0 allowed); allocates nothing. */
  at(f: number, out: LinePoint): void;
  /** Impedance in ohm and effective permittivity only, for synthesis: the attenuations in `out` are left alone. */
  impedanceAt(f: number, out: LinePoint): void;
}

/** One kind of cross-section: a file of its own behind this contract. */
export interface LineKind {
  readonly id: string;
  readonly name: string;
  /** One paragraph for help texts: what the model is, where it comes from, how good it is. */
  readonly about: string;
  prepare(substrate: Substrate, width: number, level?: LineModelLevel): PreparedLine;
  /** Frequency in Hz above which the first higher-order mode propagates. */
  higherOrderMode(substrate: Substrate, width: number): number;
  /** Published ranges that this line leaves at frequency `f`, in words. */
  warnings(substrate: Substrate, width: number, f: number): LineWarning[];
  /** Why a substrate cannot be computed at all, or undefined: the field at fault and the reason in words. */
  refuse(substrate: Substrate): { field: keyof Substrate; message: string } | undefined;
}
