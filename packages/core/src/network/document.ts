import type { SheetShapeId } from './sheet/shapes';
import type { MediumId } from '../lines';
import type { Stack } from '../stack';

/** A named value of a design: the text of a quantity or an expression. */
export interface NamedValue {
  readonly name: string;
  readonly value: string;
  /** What it is, in a few words. */
  readonly note?: string;
  /** Plus and minus what it comes out as, such as `5%` or `20 um:uniform`; absent: it is exact. */
  readonly spread?: string;
}

/** What is said about a piece but does not make it: no response and no copper depends on it. */
export interface Marks {
  /** What the recipe's theory asks its first property to be, an expression. */
  readonly theory?: string;
  /** Whether retuning may move it, where that is not as its role has it. */
  readonly retune?: 'stay' | 'move';
  /** The frequency in Hz for which its length was typed. */
  readonly heldAt?: string;
  /** A port whose reference differs from that of port 1 on purpose. */
  readonly reference?: 'own';
  /** What its faces were held at before its copper was: expressions by face. */
  readonly asked?: Readonly<Record<string, string>>;
  /** Plus and minus what its faces come out as, by face. */
  readonly spread?: Readonly<Record<string, string>>;
}

/** One part of a design. */
export interface Piece {
  readonly id: string;
  readonly name: string;
  readonly kind: string;
  /** What the recipe made it for: `section`, `feed` … */
  readonly role?: string;
  /** The held face of each property, as text: `{ z0: "z1", theta: "90 deg" }` or `{ width: "1.2 mm", length: "4 mm" }`. */
  readonly held: Readonly<Record<string, string>>;
  /** What is chosen and is no quantity: `{ number: "1" }` of a port, `{ data: "…" }` of a data block. */
  readonly settings?: Readonly<Record<string, string>>;
  readonly marks?: Marks;
  /** The node at each pin; pins with the same node are joined. `ground` is ground. */
  readonly nodes: readonly string[];
}

/** A piece with its marks changed; what is undefined or empty is not kept. */
export function marked(piece: Piece, change: Marks): Piece {
  const { marks, ...rest } = piece;
  const next = Object.fromEntries(
    Object.entries({ ...marks, ...change }).filter(
      ([, mark]) => mark !== undefined && !(typeof mark === 'object' && Object.keys(mark).length === 0),
    ),
  );
  return Object.keys(next).length > 0 ? { ...rest, marks: next } : rest;
}

export interface Sweep {
  readonly start: string;
  readonly stop: string;
  readonly points: number;
}

export interface Marker {
  readonly id: string;
  /** A frequency, or an expression such as `f0` or `2*f0`. */
  readonly freq: string;
}

/** A goal drawn into a plot: the curve shall stay below, above or at a level between two frequencies. */
export interface Limit {
  readonly id: string;
  readonly side: 'below' | 'above' | 'at';
  /** The number in the plot's unit, as typed. */
  readonly level: string;
  /** How far from the level it may be that the curve shall be at, in the plot's unit; absent: nothing. */
  readonly tolerance?: string;
  /** What a miss counts in a search against those of other limits; absent: 1. */
  readonly weight?: string;
  readonly from: string;
  readonly to: string;
  /** Ids of the curves it is about, such as `S11`; absent: all of its plot. */
  readonly curves?: readonly string[];
}

/** One of the pictures of a design's response: a measure by name, `smith`, or formulas of the form `S21 in dB`. */
export interface Plot {
  readonly id: string;
  readonly show: string;
  readonly formulas?: readonly string[];
  readonly limits?: readonly Limit[];
  /** A Smith chart: the pin at which one looks into a piece and what lies beyond it; absent: port 1. */
  readonly look?: { readonly piece: string; readonly pin: number };
  /** A Smith chart: the impedance of its centre; absent: that of port 1. */
  readonly reference?: string;
}

/** Ends of a value, as typed. */
export interface Range {
  readonly key: string;
  readonly from: string;
  readonly to: string;
}

/** What a family is taken over, by its key, and the values of its members as typed: `0.1 mm .. 0.3 mm : 5`, or `0.1 mm, 0.2 mm`. */
export interface FamilyAxis {
  readonly key: string;
  readonly values: string;
}

/** A state of a design kept under a name while it is tuned. */
export interface Attempt {
  readonly id: string;
  readonly name: string;
  readonly values: readonly NamedValue[];
  readonly pieces: readonly Piece[];
}

/** A family of a design as it once was, drawn beside later ones: the state, from which its members follow. */
export interface KeptFamily extends Attempt {
  readonly axes: readonly FamilyAxis[];
  readonly level: 'ideal' | 'modelled' | 'solved';
}

/** Sides of an enclosure as one looks down on the board, its front at the lower edge of what is drawn. */
export const enclosureSides = ['left', 'right', 'front', 'back'] as const;
export type EnclosureSide = (typeof enclosureSides)[number];

/** Metal walls around the copper: how far each stands from its outermost point, as typed. */
export type Enclosure = Readonly<Record<EnclosureSide, string>>;

export interface Design {
  readonly id: string;
  readonly name: string;
  readonly note?: string;
  /** The recipe it was made by, for its heading. */
  readonly recipe?: string;
  /** Id of one of the project's stacks. */
  readonly stack: string;
  readonly medium: MediumId;
  /** Side walls, which only the solved level knows; absent: the board goes on for ever. */
  readonly enclosure?: Enclosure;
  readonly values: readonly NamedValue[];
  readonly pieces: readonly Piece[];
  readonly sweep: Sweep;
  readonly markers: readonly Marker[];
  /** Return loss whose bandwidth is read out, for example `20 dB`. */
  readonly goal: string;
  /** Ids of data drawn beside the response. */
  readonly overlays: readonly string[];
  /** What is shown side by side; left out, what suits the number of ports. */
  readonly plots?: readonly Plot[];
  /** Values on the tuning strip, by key: `value:zl:re`, `piece:stub:theta`, `stack:er`. */
  readonly strip?: readonly string[];
  /** Between which ends values may be moved, by the same keys; absent: around where they are. */
  readonly ranges?: readonly Range[];
  /** What its family is taken over, one or two values at a time. */
  readonly family?: readonly FamilyAxis[];
  readonly keptFamilies?: readonly KeptFamily[];
  /** What of it stands on data that was solved. */
  readonly backed?: readonly Backed[];
  readonly attempts?: readonly Attempt[];
}

/** What data was solved over: a value of the board, or a size that one or several pieces have in common. */
export interface SolvedAxis {
  /** In words, such as `width of tee 1, side arm`. */
  readonly label: string;
  /** Faces that are this size, by the place of their piece. */
  readonly sizes?: readonly (readonly [piece: number, face: string])[];
  readonly board?: 'er' | 'height' | 'thickness';
  /** SI units. */
  readonly from: number;
  readonly to: number;
}

/** A piece as it was solved, with all its values in SI units. */
export interface SolvedPiece {
  readonly kind: string;
  readonly values: Readonly<Record<string, number>>;
  readonly settings: Readonly<Record<string, string>>;
  readonly facts: Readonly<Record<string, boolean | readonly number[]>>;
  /** Names of the faces that were held: the others follow from them or from what the piece meets. */
  readonly held: readonly string[];
  /** Nodes at its pins, by names of their own. */
  readonly nodes: readonly string[];
}

/** Some pieces by themselves that were solved over sizes of theirs and of the board: what their data is of. */
export interface SolvedOver {
  readonly medium: MediumId;
  /** Design frequency that models were taken at, Hz. */
  readonly f0: number;
  /** The board in the middle of all ranges, SI units; without a lid `cover` is left out. */
  readonly board: {
    readonly er: number;
    readonly height: number;
    readonly thickness: number;
    readonly tand: number;
    readonly conductivity: number;
    readonly roughness: number;
    readonly cover?: number;
  };
  /** The pieces in the middle of all ranges. */
  readonly pieces: readonly SolvedPiece[];
  /** Piece and pin that each port of the data is. */
  readonly pins: readonly (readonly [piece: number, pin: number])[];
  readonly axes: readonly SolvedAxis[];
  /** Places along an axis, from -1 at the lower end to 1 at the upper one. */
  readonly places: readonly number[];
  /** What was solved, each by the index of its place along every axis. */
  readonly states: readonly (readonly number[])[];
  /** Estimated error of S between what was solved, absolute. */
  readonly error: number;
  readonly accuracy: 'draft' | 'normal' | 'fine';
  /** The number of the solver. */
  readonly solver: number;
}

/** S-parameters in the project: imported from a file, kept from a response, or solved over sizes. Never changed once made. */
export interface DataBlock {
  readonly id: string;
  readonly name: string;
  readonly origin: 'imported' | 'kept' | 'solved';
  readonly ports: number;
  readonly freq: readonly number[];
  /** Real and imaginary parts, point by point, each matrix row by row; of what was solved over sizes one state after the other. */
  readonly re: readonly number[];
  readonly im: readonly number[];
  /** Reference impedance of each port, [re, im] in ohm. */
  readonly z0: readonly (readonly [number, number])[];
  readonly over?: SolvedOver;
}

/** Pieces of a design that stand on data that was solved over their sizes. */
export interface Backed {
  /** Id of the data. */
  readonly data: string;
  /** Ids of the pieces, in the order of the data's. */
  readonly pieces: readonly string[];
  /** The one piece has its first two pins the other way round. */
  readonly reversed?: true;
}

/** What the Lines page holds: one line with its held faces. */
export interface LineSheet {
  readonly stack: string;
  readonly medium: MediumId;
  readonly freq: string;
  readonly held: Readonly<Record<string, string>>;
  /** What is looked at; absent: a single strip, whose entries are `held`. */
  readonly shape?: Exclude<SheetShapeId, 'strip'>;
  /** Entries of the other shapes, where there are any. */
  readonly pair?: SheetEntry;
  readonly coplanar?: SheetEntry;
}

/** What is held of a shape, and as what it is asked for. */
export interface SheetEntry {
  readonly held: Readonly<Record<string, string>>;
  readonly system?: string;
}

/** A design put on a panel. */
export interface PlacedDesign {
  readonly id: string;
  /** Id of the design. */
  readonly design: string;
  /** Lower left corner of the design's own board on the panel, as typed. */
  readonly x: string;
  readonly y: string;
  /** Quarter turns to the left; absent: none. */
  readonly turns?: 1 | 2 | 3;
}

/** Several designs made as one board. Lengths as typed. */
export interface Panel {
  readonly id: string;
  readonly name: string;
  /** Size of the board; empty: as far as what is on it reaches, and the margin. */
  readonly width: string;
  readonly height: string;
  /** Board around what is on it, where it is not given, and between designs that are arranged. */
  readonly margin: string;
  readonly placed: readonly PlacedDesign[];
  /** A rim that is no rectangle, corner by corner turning left, m; the size then follows from it. */
  readonly outline?: readonly (readonly [number, number])[];
  /** Height of names etched into the copper; absent: none are. */
  readonly letters?: string;
  /** Diameter of alignment marks in three corners; absent: there are none. */
  readonly marks?: string;
  /** Ground beside every port at the rim, for a connector there; absent: none. */
  readonly launches?: PanelLaunches;
  /** Holes to ground along sides of the rim; absent: none. */
  readonly fence?: PanelFence;
}

/** Pads beside a port, each from the rim inwards, with holes to ground. */
export interface PanelLaunches {
  /** Between the line and the pad. */
  readonly gap: string;
  readonly width: string;
  readonly length: string;
  readonly hole: string;
}

export interface PanelFence {
  readonly sides: readonly EnclosureSide[];
  readonly hole: string;
  readonly pitch: string;
  /** From the rim to the middles of the holes. */
  readonly inset: string;
}

/** What a shop can make beside the lines and gaps, which stand with the board. Lengths as typed. */
export interface Shop {
  readonly name: string;
  /** Diameters it drills: `0.2 mm .. 6 mm`, or a list with commas. */
  readonly drills: string;
  /** Least copper around a hole. */
  readonly ring: string;
  /** Least board between copper or a hole and the rim. */
  readonly edge: string;
  /** Least board between two holes. */
  readonly web: string;
  /** Copper is added around holes where it ends sooner than the annular ring; absent: it is not. */
  readonly lands?: boolean;
  /** By how much lines come out narrower than drawn, which is made up for. */
  readonly etch: string;
}

export interface Project {
  readonly format: 'ditch-project';
  readonly version: 2;
  readonly id: string;
  readonly name: string;
  readonly note?: string;
  readonly stacks: readonly Stack[];
  readonly line: LineSheet;
  readonly designs: readonly Design[];
  readonly data: readonly DataBlock[];
  /** Several designs made as one board. */
  readonly panels?: readonly Panel[];
  /** Who makes the boards; absent: a usual shop. */
  readonly shop?: Shop;
  /** In what results are shown; absent: as the page prefers. */
  readonly display?: { readonly lengths?: 'mm' | 'mil' };
}
