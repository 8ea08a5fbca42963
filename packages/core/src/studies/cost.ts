import {
  circuitOf,
  dataFinder,
  frequencies,
  inDesign,
  networkOf,
  resolveDesign,
  simulate,
  solveNetwork,
  type Design,
  type Project,
} from '../network';
import { entryOf, readMatch } from '../results';

/** What port 1 sees and hands on at the design frequency, in dB at the modelled level. */
export interface Passage {
  readonly match: number;
  /** To the port that gets the most; absent with one port. */
  readonly through?: number;
}

/** Reads a design's passage; undefined while it has errors. */
export function passageOf(project: Project, design: Design): Passage | undefined {
  const resolved = resolveDesign(
    inDesign(project, design.id, () => design),
    design,
  );
  const circuit = circuitOf(resolved, 'modelled');
  if (!circuit || resolved.f0 === undefined) return undefined;
  const { ports, re, im } = simulate(circuit, Float64Array.of(resolved.f0), dataFinder(project.data));
  const size = (i: number) => 20 * Math.log10(Math.max(Math.hypot(re[i * ports], im[i * ports]), 1e-10));
  const others = Array.from({ length: ports - 1 }, (_, i) => size(i + 1));
  return { match: size(0), ...(others.length > 0 ? { through: Math.max(...others) } : {}) };
}

/** What bending the board has done to a design, its copper as it is: where port 1 is matched and how well, flat and bent. */
export interface Bending {
  /** Hz, and dB at f0. */
  readonly flat: { readonly best: number; readonly level: number };
  readonly bent: { readonly best: number; readonly level: number };
}

const SAMPLES = 201;

/** Compares the copper of a design on its bent board with the same on the board while flat; undefined where it is flat. */
export function bendingOf(project: Project, design: Design): Bending | undefined {
  const resolved = resolveDesign(project, design);
  const { stack, f0, goal } = resolved;
  const circuit = stack?.flat && circuitOf(resolved, 'modelled');
  if (!circuit || f0 === undefined) return undefined;
  const freq = frequencies(0.8 * f0, 1.2 * f0, SAMPLES);
  const read = (substrate: typeof circuit.substrate) => {
    const data = solveNetwork(networkOf({ ...circuit, substrate }, dataFinder(project.data)), freq);
    const entry = entryOf(data, 0, 0);
    const middle = (SAMPLES - 1) / 2;
    return {
      best: readMatch(entry, f0, -goal)?.best ?? f0,
      level: 20 * Math.log10(Math.max(Math.hypot(entry.re[middle], entry.im[middle]), 1e-10)),
    };
  };
  return { flat: read(stack.flat), bent: read(circuit.substrate) };
}
