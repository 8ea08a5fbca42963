import type { TableData } from '../table';
import mitredMicrostrip from './mitred-bend-microstrip.json';
import mitredStripline from './mitred-bend-stripline.json';
import openMicrostrip from './open-end-microstrip.json';
import openStripline from './open-end-stripline.json';
import squareMicrostrip from './square-bend-microstrip.json';
import squareStripline from './square-bend-stripline.json';
import stepMicrostrip from './step-microstrip.json';
import stepStripline from './step-stripline.json';

/** The tables that ship, made by `scripts/junctions.mjs`: apart from what reads them, since a page that draws needs none. */
export const junctionTables = [
  mitredMicrostrip,
  mitredStripline,
  openMicrostrip,
  openStripline,
  squareMicrostrip,
  squareStripline,
  stepMicrostrip,
  stepStripline,
] as readonly TableData[];
