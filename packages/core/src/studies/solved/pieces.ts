import { answer, excerptSubject, NotSolvable } from '../../levels';
import {
  circuitOf,
  dataFinder,
  frequencies,
  networkOf,
  resolveDesign,
  solveNetwork,
  type Design,
  type Project,
  type ResolvedDesign,
  type ResolvedPiece,
} from '../../network';
import { drive, share, type Steps } from '../../numeric';
import { parts } from '../../parts';
import { CopperError, type Accuracy } from '../../planar';
import { entryOf, readMatch, type SData } from '../../results';
import { solvingHere, type CopperSolver, type SolvedSamples } from './solver';

/** What it makes that some pieces are solved instead of modelled. */
export interface PieceDifference {
  readonly ids: readonly string[];
  readonly name: string;
  /** Root mean square of the change of S over the sweep, as an amplitude; absent where they could not be solved. */
  readonly change?: number;
  /** By how much the match of port 1 moves, as a share of its frequency. */
  readonly shift?: number;
  /** Why they could not be solved. */
  readonly refused?: string;
}

/** All pieces one after the other, the greatest difference first. */
export interface PieceDifferences {
  readonly pieces: readonly PieceDifference[];
  /** Solutions of copper that this took: what is alike was solved once. */
  readonly solves: number;
}

/** Lines shorter than this, in heights of the board, leave two junctions in one field. */
const NEAR = 4;
/** Points of the sweep at which responses are compared. */
const POINTS = 101;

/** Pieces that a model stands for by more than a uniform line. */
const isOfInterest = ({ kind, values }: ResolvedPiece): boolean => {
  const definition = parts.get(kind);
  if (definition?.field !== 'copper' || definition.kind === 'free-copper' || definition.kind === 'joint')
    return false;
  // A line is one unless it turns.
  return definition.line && definition.group === 'line'
    ? Math.abs(values?.turn?.re ?? 0) > 1e-6
    : !definition.gaps || kind === 'gap';
};

/** Pieces and neighbourhoods whose solution may make a difference. */
function groupsOf({ pieces, stack }: ResolvedDesign): { readonly ids: string[]; readonly name: string }[] {
  const there = pieces.filter((p) => p.values);
  const single = there.filter(isOfInterest);
  const near = NEAR * (stack?.substrate.height ?? 0);
  const pairs = there.flatMap((line) => {
    const length = parts.get(line.kind)?.line?.(line.values!)?.length;
    if (length === undefined || length > near || line.nodes.length !== 2) return [];
    const ends = line.nodes.map((node) => single.find((p) => p !== line && p.nodes.includes(node)));
    return ends[0] && ends[1] && ends[0] !== ends[1]
      ? [
          {
            ids: [ends[0].id, line.id, ends[1].id],
            name: `${ends[0].name} and ${ends[1].name}, ${line.name} between`,
          },
        ]
      : [];
  });
  return [...single.map((p) => ({ ids: [p.id], name: p.name })), ...pairs];
}

/**
 * Puts one piece or neighbourhood after the other in its place as the field solution has it, everything else as it is modelled, and
 * tells what that changes. Yields the share done.
 * @throws RetuneError in words
 */
export function* pieceSteps(
  project: Project,
  design: Design,
  {
    accuracy = 'draft',
    solver = solvingHere(accuracy),
    watch,
  }: {
    readonly accuracy?: Accuracy;
    readonly solver?: CopperSolver;
    readonly watch?: (so: readonly PieceDifference[]) => void;
  } = {},
): Steps<PieceDifferences | undefined> {
  const find = dataFinder(project.data);
  const resolved = resolveDesign(project, design);
  const circuit = circuitOf(resolved, 'modelled');
  const { sweep, f0 } = resolved;
  if (!circuit || !sweep || f0 === undefined) return undefined;
  const freq = frequencies(sweep.start, sweep.stop, POINTS);
  const modelled = solveNetwork(networkOf(circuit, find), freq);
  const matchOf = (s: SData) => readMatch(entryOf(s, 0, 0), f0, -resolved.goal)?.best;
  const was = matchOf(modelled);
  const groups = groupsOf(resolved);
  /** Copper that was solved, by what it is wherever it lies. */
  const known = new Map<string, SolvedSamples>();
  const out: PieceDifference[] = [];
  const ranked = () => [...out].sort((a, b) => (b.change ?? -1) - (a.change ?? -1));
  for (const [i, { ids, name }] of groups.entries()) {
    const part = (t: number) => (i + t) / groups.length;
    try {
      const subject = excerptSubject(resolved, new Set(ids))!;
      const key = shapeKey(resolved, ids);
      let samples = known.get(key);
      if (!samples)
        known.set(
          key,
          (samples = yield* share(
            solver(subject, { start: sweep.start, stop: sweep.stop }),
            part(0),
            part(0.95),
          )),
        );
      const solved = { key: '', nodes: subject.nodes, samples: samples.samples };
      const s = drive(answer({ ...subject.rest, solved }, find).sample(freq));
      let sum = 0;
      for (let k = 0; k < s.re.length; k++)
        sum += (s.re[k] - modelled.re[k]) ** 2 + (s.im[k] - modelled.im[k]) ** 2;
      const is = matchOf(s);
      out.push({
        ids,
        name,
        change: Math.sqrt(sum / s.re.length),
        ...(was !== undefined && is !== undefined && { shift: is / was - 1 }),
      });
    } catch (error) {
      if (!(error instanceof NotSolvable || error instanceof CopperError)) throw error;
      out.push({ ids, name, refused: error.message });
    }
    watch?.(ranked());
    yield part(1);
  }
  return { pieces: ranked(), solves: known.size };
}

/** What copper is, but for where it lies and to which side it turns: both leave its S-parameters alone. */
const shapeKey = ({ pieces }: ResolvedDesign, ids: readonly string[]): string =>
  JSON.stringify(
    ids.map((id) => {
      const { kind, values, settings, facts } = pieces.find((p) => p.id === id)!;
      // A neighbourhood of several is its own: how its pieces lie to one another counts.
      const own = ids.length === 1 ? { ...settings, side: '' } : { ...settings, id };
      return [kind, values, own, facts];
    }),
  );
