import type { Electrical } from '../electrical';
import type { Complex } from '../numeric';

/** A node name that is ground wherever it appears. */
export const GROUND = 'ground';

/** A network ready to be solved: parts joined at named nodes, ports between a node and ground. */
export interface Network {
  readonly parts: readonly {
    readonly electrical: Electrical;
    readonly nodes: readonly string[];
    /** What it was made from, as plain data: parts made from the same are alike. */
    readonly from?: readonly unknown[];
  }[];
  readonly ports: readonly { readonly node: string; readonly z0: Complex }[];
}
