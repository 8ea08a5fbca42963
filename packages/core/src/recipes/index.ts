import type { Recipe } from './contract';
import { quarterWave } from './quarter-wave';

export * from './contract';
export { dataLoad } from './quarter-wave';

/** Every recipe, by id. A further recipe is a file and a name here. */
export const recipes: ReadonlyMap<string, Recipe> = new Map([quarterWave].map((r) => [r.id, r]));

/** The inputs a recipe starts from. */
export const initialInputs = (recipe: Recipe): Record<string, string> =>
  Object.fromEntries(recipe.fields.map((f) => [f.name, f.initial]));
