import type { PartDefinition } from './contract';
import definitions from './generated/registry';

export * from './contract';
export { MOUNTED_SPAN, mountedWidth } from './shapes';
export { ringsOf, sidesOf, turn, turning } from './outlines';

/** Every kind of part, by kind. A further part is a folder here and nothing else: the list is made from the folders. */
export const parts: ReadonlyMap<string, PartDefinition> = new Map(definitions.map((p) => [p.kind, p]));
