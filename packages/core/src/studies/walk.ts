import { circuitOf, dataFinder, resolveDesign, type Design, type PlotPlane, type Project } from '../network';
import type { Steps } from '../numeric';
import type { Model } from '../parts';
import { matchPath, pathArc, pathSteps, shareNearest, type PathArc, type Reflection } from './path';
import { faceKey, tunables } from './tune';

/** An arc with the value that it grows with. */
export interface WalkedArc extends PathArc {
  readonly name: string;
  /** Key of that value among the tunable ones; absent: the arc cannot be taken hold of. */
  readonly key?: string;
  readonly shown?: string;
  /** An expression holds it. */
  readonly follows?: boolean;
}

/** The way from the load to port 1, or, where there is no one way, the arc of the piece pointed at. */
export interface Walked {
  readonly arcs: readonly WalkedArc[];
  readonly pointed?: readonly Reflection[];
}

/** What is walked: a design in one model, from a plane other than port 1 where one is given. */
export interface WalkRequest {
  readonly project: Project;
  readonly design: Design;
  readonly model: Model;
  readonly plane?: PlotPlane;
}

function begin({ project, design, model }: WalkRequest) {
  const resolved = resolveDesign(project, design);
  const circuit = circuitOf(resolved, model);
  return circuit && { resolved, circuit, data: dataFinder(project.data) };
}

/** @param pointed id of the piece whose own arc is wanted where there is no one way */
export function* walkSteps(request: WalkRequest, pointed?: string): Steps<Walked> {
  const { project, design, plane } = request;
  const begun = begin(request);
  if (!begun) return { arcs: [] };
  const { resolved, circuit, data } = begun;
  const path = yield* pathSteps(design, resolved, circuit, data, plane);
  if (!path) {
    const own =
      pointed !== undefined && !plane ? pathArc(design, resolved, circuit, data, pointed) : undefined;
    return { arcs: [], ...(own && { pointed: own.points }) };
  }
  const pieces = new Map(design.pieces.map((p) => [p.id, p]));
  const keys = path.arcs.map((arc) => {
    const piece = pieces.get(arc.piece)!;
    // Feeds only lead to the port: turning them moves no match.
    return arc.face && piece.role !== 'feed' ? faceKey(design, piece, arc.face) : undefined;
  });
  const known = tunables(
    project,
    design,
    resolved,
    keys.flatMap((k) => k ?? []),
  );
  return {
    arcs: path.arcs.map((arc, i): WalkedArc => {
      const { name } = pieces.get(arc.piece)!;
      const tunable = known.find((t) => t.key === keys[i]);
      return tunable
        ? {
            ...arc,
            name,
            key: tunable.key,
            shown: tunable.shown,
            follows: tunable.expression !== undefined,
          }
        : { ...arc, name };
    }),
  };
}

/** Angle that an arc follows the pointer by in one stride, rad; of what has none a share. */
const STRIDE = { angle: 0.6, share: 0.5 };
/** Strides in one move: a hand may have gone far since it was asked last. */
const STRIDES = 4;

/** The share of itself at which a piece's arc ends nearest to a reflection, found stride by stride from the present one. */
export function shareTowards(request: WalkRequest, piece: string, wanted: Reflection): number | undefined {
  const begun = begin(request);
  if (!begun) return undefined;
  const { resolved, circuit, data } = begun;
  const theta = resolved.pieces.find((p) => p.id === piece)?.values?.theta?.re;
  const path = matchPath(request.design, resolved, circuit, data, request.plane);
  if (!path) return undefined;
  const turn = theta ? STRIDE.angle / theta : STRIDE.share;
  let share: number | undefined = 1;
  for (let k = 0; k < STRIDES && share !== undefined; k++) {
    const next: number | undefined = shareNearest(path, piece, wanted, turn, share);
    const gone = next === undefined ? 0 : Math.abs(next - share);
    share = next;
    if (gone < 0.9 * turn) break;
  }
  return share;
}
