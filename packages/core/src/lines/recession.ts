/** Share of the least dimension by which walls recede for a derivative. */
const RECESSION = 0.03;

/**
 * How impedances in vacuum change, ohm/m, when all walls of a cross-section recede: a central difference of its field
 * solution, whose meshes move with it.
 * @param least the least of the dimensions that the walls bound, m
 * @param impedances in vacuum of the modes when the walls have receded by n (m)
 */
export function receding(least: number, impedances: (n: number) => readonly number[]): number[] {
  const step = RECESSION * least;
  const [near, far] = [impedances(-step), impedances(step)];
  return far.map((z, mode) => (z - near[mode]) / (2 * step));
}
