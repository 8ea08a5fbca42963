import { filters } from './filters';
import { junctions } from './junctions';
import { lines } from './lines';
import { network } from './network';
import { planar } from './planar';
import { tables } from './tables';

export * from './contract';
export const groups = [lines, junctions, network, filters, planar, tables];
