import { block } from './block';
import type { PartDefinition } from './contract';
import { line } from './line';
import { load } from './load';
import { capacitor, inductor, resistor } from './lumped';
import { port } from './port';

export type * from './contract';

/** Every kind of part, by kind. A further part is a folder and a name here. */
export const parts: ReadonlyMap<string, PartDefinition> = new Map(
  [line, port, load, resistor, capacitor, inductor, block].map((p) => [p.kind, p]),
);
