import type { MediumId } from '../lines';
import type { Complex } from '../numeric';
import type { DataBlock, Design } from '../network';
import type { Stack } from '../stack';
import type { QuantityRule } from '../units';

/** A wrong or impossible specification; `field` is the input to change. */
export class RecipeError extends Error {
  constructor(
    readonly field: string,
    message: string,
  ) {
    super(message);
  }
}

/** One entry of a recipe's form. Quantities are texts with units; choices are one of their options. */
export type RecipeField = {
  readonly name: string;
  readonly label: string;
  readonly help: string;
  readonly initial: string;
  /** Only asked for while this holds. */
  readonly when?: (inputs: RecipeInputs) => boolean;
  /** What it belongs to, in words: `it belongs to --profile chebyshev`. */
  readonly needs?: string;
} & (
  | { readonly type: 'quantity'; readonly rule: QuantityRule }
  | { readonly type: 'load' }
  | { readonly type: 'count'; readonly min: number; readonly max: number }
  | {
      readonly type: 'choice';
      readonly options: readonly { readonly id: string; readonly label: string }[];
      /** On the command line a flag stands for the first option, its absence for the last; what it does, in words. */
      readonly flag?: string;
    }
  | { readonly type: 'text'; readonly placeholder: string }
);

export type RecipeInputs = Readonly<Record<string, string>>;

/** Where the design goes: its board, and the data it may refer to. */
export interface RecipeContext {
  readonly stack: Stack;
  readonly medium: MediumId;
  /** Makes an id that nothing else in the project has. */
  readonly newId: () => string;
  readonly data: readonly DataBlock[];
}

/** One way to meet a goal. */
export interface Alternative {
  readonly label: string;
  readonly inputs: RecipeInputs;
}

/** Impedances of more than `conductance` over that of `z0` (ohm) cannot be matched; `at` is where the load lies, ohm. */
export interface ForbiddenDisc {
  readonly z0: number;
  readonly conductance: number;
  readonly at: Complex;
}

/** What recipes are looked for by, in the order in which they are listed. */
export const recipeGoals = [
  { id: 'match', label: 'Match', about: 'a load to a source' },
  { id: 'divide', label: 'Divide', about: 'power between outputs' },
  { id: 'couple', label: 'Couple', about: 'two paths, in quadrature or opposite phase' },
  { id: 'filter', label: 'Filter', about: 'a band from what lies beside it' },
  { id: 'feed', label: 'Feed', about: 'a supply without touching the signal' },
] as const;
export type RecipeGoal = (typeof recipeGoals)[number]['id'];

/** One recipe: a specification in, a design out, with the theory it comes from. A file of its own behind this contract. */
export interface Recipe {
  readonly id: string;
  readonly name: string;
  /** Its place in the list of recipes. */
  readonly order: number;
  /** What one wants who looks for it. */
  readonly goal: RecipeGoal;
  /** What it is for, in a sentence. */
  readonly about: string;
  /** The entry to change when a width cannot be made. */
  readonly blame: string;
  /** Where it comes from. */
  readonly source: string;
  readonly fields: readonly RecipeField[];
  /** Recipes of one family take the same goal, so that their designs can be weighed against each other. */
  readonly family?: 'match';
  /** Other entries that meet the same goal, these among them. */
  alternatives?(inputs: RecipeInputs): readonly Alternative[];
  /** What the entries cannot reach, to be drawn on the Smith chart. @throws RecipeError */
  forbidden?(inputs: RecipeInputs, context: RecipeContext): ForbiddenDisc;
  /** The coupling in dB that is asked of two lines of an impedance (ohm), to be shown beside what boards can do. @throws RecipeError */
  coupled?(inputs: RecipeInputs): { readonly coupling: number; readonly z0: number; readonly freq: number };
  /** @throws RecipeError naming the field at fault */
  design(inputs: RecipeInputs, context: RecipeContext): Design;
  /** The theory with the chosen numbers, a sentence an entry. @throws RecipeError */
  explain(inputs: RecipeInputs, context: RecipeContext): string[];
}
