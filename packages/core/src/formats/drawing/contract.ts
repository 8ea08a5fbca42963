import type { Ring } from '../../polygons';

/** Copper as a file draws it, m. */
export interface DrawnLayer {
  readonly name: string;
  /** Outlines without holes, turning left; what had holes is cut through them. */
  readonly outlines: readonly Ring[];
}

/** What a file of copper says. */
export interface Drawing {
  readonly kind: 'DXF' | 'Gerber';
  /** Layers that have copper. */
  readonly layers: readonly DrawnLayer[];
  /** So far a straight side may be from the curve that it stands for, m. */
  readonly chord: number;
  /** What was understood otherwise or left out, in sentences. */
  readonly notes: readonly string[];
}

/** A file that cannot be read as copper; the message is a sentence for the engineer. */
export class DrawingError extends Error {}
