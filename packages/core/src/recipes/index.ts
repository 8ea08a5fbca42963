import type { Recipe } from './contract';
import definitions from './generated/registry';

export * from './contract';
export { dataLoad } from './load';
export * from './reach';

/** Every recipe, by id. A further recipe is a file here and nothing else: the list is made from the files. */
export const recipes: ReadonlyMap<string, Recipe> = new Map(
  [...definitions].sort((a, b) => a.order - b.order).map((r) => [r.id, r]),
);

/** The inputs a recipe starts from. */
export const initialInputs = (recipe: Recipe): Record<string, string> =>
  Object.fromEntries(recipe.fields.map((f) => [f.name, f.initial]));
