import type { MediumId } from '../../lines';
import type { PartFacts, PartValues } from '../../parts';
import type { ResolvedStack, StackField } from '../../stack';
import { QuantityError, type Quantity } from '../../units';
import { message } from '../arguments';
import type { Backed, DataBlock, EnclosureSide } from '../document';

/** Where a problem stands, so that it can be shown at its field. */
export type Place =
  | { readonly kind: 'stack'; readonly field: StackField }
  | { readonly kind: 'value'; readonly name: string }
  | { readonly kind: 'piece'; readonly piece: string; readonly face: string }
  | { readonly kind: 'sweep'; readonly field: 'start' | 'stop' | 'points' }
  | { readonly kind: 'marker'; readonly id: string }
  | { readonly kind: 'goal' }
  | { readonly kind: 'enclosure'; readonly side: EnclosureSide }
  | { readonly kind: 'limit'; readonly id: string }
  | { readonly kind: 'range'; readonly key: string }
  /** The plane of a Smith chart; the id is its plot's. */
  | { readonly kind: 'plane'; readonly id: string }
  | { readonly kind: 'design' };

export interface Problem {
  readonly place: Place;
  readonly message: string;
  /** The cause stands at another place, which has a problem of its own. */
  readonly follows?: boolean;
}

export interface ResolvedPiece {
  readonly id: string;
  readonly name: string;
  readonly kind: string;
  readonly role?: string;
  readonly nodes: readonly string[];
  readonly settings: Readonly<Record<string, string>>;
  /** Names of the faces held. */
  readonly held: readonly string[];
  /** All faces; undefined where a held one is wrong. */
  readonly values?: PartValues;
  /** What it learnt from what it meets. */
  readonly facts: PartFacts;
  /** What the recipe's theory asks its first property to be, SI. */
  readonly theory?: number;
}

/** Where a Smith chart looks from, where that is not port 1 against its own reference. */
export interface PlotPlane {
  readonly plot: string;
  /** The pin at which one looks into a piece. */
  readonly look?: { readonly piece: string; readonly pin: number };
  /** Impedance of the centre of the chart, ohm. */
  readonly reference?: number;
}

/** A design in numbers: what is simulated, drawn and listed. */
export interface ResolvedDesign {
  readonly stack?: ResolvedStack;
  readonly medium: MediumId;
  readonly f0?: number;
  /** Named values in SI units. */
  readonly values: ReadonlyMap<string, Quantity>;
  readonly pieces: readonly ResolvedPiece[];
  readonly sweep?: { readonly start: number; readonly stop: number; readonly points: number };
  readonly markers: readonly { readonly id: string; readonly freq: number }[];
  /** Limits of the plots: frequencies in Hz, the level in the plot's own unit. */
  readonly limits: readonly {
    readonly id: string;
    readonly side: 'below' | 'above' | 'at';
    readonly curves?: readonly string[];
    readonly level: number;
    readonly tolerance: number;
    readonly weight: number;
    readonly from: number;
    readonly to: number;
  }[];
  /** Ends between which values may be moved, by key, the lower first. */
  readonly ranges: ReadonlyMap<string, { readonly low: Quantity; readonly high: Quantity }>;
  readonly planes: readonly PlotPlane[];
  /** Distance of each side wall from the copper, m. */
  readonly enclosure?: Readonly<Record<EnclosureSide, number>>;
  /** Pieces that stand on data which was solved over their sizes, in the order of the data's. */
  readonly backed: readonly (Backed & { readonly block: DataBlock })[];
  /** Return loss goal, dB (positive). */
  readonly goal: number;
  readonly problems: readonly Problem[];
}

/** Overrides of named values, by name: used by the command line and by tuning. */
export type Overrides = Readonly<Record<string, string>>;

/** An expression that is right in itself but needs a value with an error. */
export class FollowingError extends QuantityError {}

/** Collects what is wrong, each at its place. */
export class Problems {
  readonly list: Problem[] = [];

  say(place: Place, text: string): void {
    this.list.push({ place, message: text });
  }

  /** What was thrown where a place was worked out. */
  take(place: Place, error: unknown): void {
    const follows = error instanceof FollowingError ? { follows: true } : {};
    this.list.push({ place, message: message(error), ...follows });
  }
}
