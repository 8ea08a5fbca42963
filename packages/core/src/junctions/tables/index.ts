import type { TableData } from '../table';
import crossMicrostrip from './cross-microstrip.json';
import crossStripline from './cross-stripline.json';
import curveMicrostrip from './curve-microstrip.json';
import curveStripline from './curve-stripline.json';
import gapMicrostrip from './gap-microstrip.json';
import gapStripline from './gap-stripline.json';
import mitredMicrostrip from './mitred-bend-microstrip.json';
import mitredStripline from './mitred-bend-stripline.json';
import mitredCornerMicrostrip from './mitred-corner-microstrip.json';
import mitredCornerStripline from './mitred-corner-stripline.json';
import openMicrostrip from './open-end-microstrip.json';
import openStripline from './open-end-stripline.json';
import pairBendsEvenMicrostrip from './pair-bends-even-microstrip.json';
import pairBendsEvenStripline from './pair-bends-even-stripline.json';
import pairBendsOddMicrostrip from './pair-bends-odd-microstrip.json';
import pairBendsOddStripline from './pair-bends-odd-stripline.json';
import pairEndBentMicrostrip from './pair-end-bent-microstrip.json';
import pairEndBentStripline from './pair-end-bent-stripline.json';
import pairEndMicrostrip from './pair-end-microstrip.json';
import pairEndStripline from './pair-end-stripline.json';
import squareMicrostrip from './square-bend-microstrip.json';
import squareStripline from './square-bend-stripline.json';
import squareCornerMicrostrip from './square-corner-microstrip.json';
import squareCornerStripline from './square-corner-stripline.json';
import stepMicrostrip from './step-microstrip.json';
import stepStripline from './step-stripline.json';
import teeMicrostrip from './tee-microstrip.json';
import teeStripline from './tee-stripline.json';

/** The tables that ship, made by `scripts/junctions.mjs`: apart from what reads them, since a page that draws needs none. */
export const junctionTables = [
  crossMicrostrip,
  crossStripline,
  curveMicrostrip,
  curveStripline,
  gapMicrostrip,
  gapStripline,
  mitredMicrostrip,
  mitredStripline,
  mitredCornerMicrostrip,
  mitredCornerStripline,
  openMicrostrip,
  openStripline,
  pairBendsEvenMicrostrip,
  pairBendsEvenStripline,
  pairBendsOddMicrostrip,
  pairBendsOddStripline,
  pairEndBentMicrostrip,
  pairEndBentStripline,
  pairEndMicrostrip,
  pairEndStripline,
  squareMicrostrip,
  squareStripline,
  squareCornerMicrostrip,
  squareCornerStripline,
  stepMicrostrip,
  stepStripline,
  teeMicrostrip,
  teeStripline,
] as readonly TableData[];
