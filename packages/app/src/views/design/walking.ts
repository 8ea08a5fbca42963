import { useDeferredValue, useEffect, useMemo } from 'react';
import {
  dataFinder,
  type Circuit,
  type Design,
  type PlotPlane,
  type Project,
  type ResolvedDesign,
} from '@ditch/core/network';
import {
  faceKey,
  matchPath,
  pathArc,
  shareNearest,
  tunables,
  tuned,
  type MatchPath,
} from '@ditch/core/studies';
import type { ArcActions, SmithArc, Walk } from '../../charts/SmithPath';
import { useHandler } from '../../controls/stable';
import { edit, endMerge, say, useSession } from '../../store/session';

/** Angle that an arc may follow the pointer by in one move, rad. */
const STRIDE = 0.6;

interface WalkerProps {
  readonly project: Project;
  readonly design: Design;
  readonly resolved: ResolvedDesign;
  readonly circuit: Circuit | undefined;
  /** A Smith chart is shown. */
  readonly wanted: boolean;
  /** Where the Smith chart looks from, where that is not port 1. */
  readonly plane: PlotPlane | undefined;
  readonly hovered: string | undefined;
  readonly onWalk: (walk: Walk) => void;
}

/**
 * Works out the way from the load to port 1 as arcs that can be taken hold of, and where there is no one way the arc of
 * the piece pointed at. Draws nothing itself: it is loaded after the page stands, and works behind the curves.
 */
export default function Walker(props: WalkerProps): null {
  const { project, design, resolved, circuit, wanted, plane, hovered, onWalk } = props;
  const state = useMemo(() => ({ project, design, resolved, circuit }), [project, design, resolved, circuit]);
  // The curves do not wait for the arcs.
  const settled = useDeferredValue(state);
  const walk = useMemo(
    () =>
      wanted && settled.circuit
        ? walkOf(settled.project, settled.design, settled.resolved, settled.circuit, plane)
        : undefined,
    [settled, wanted, plane],
  );
  const arcs = useMemo((): readonly SmithArc[] => {
    if (!walk) return [];
    const list = tunables(settled.project, settled.design, settled.resolved);
    return walk.arcs.map((arc) => {
      const piece = settled.design.pieces.find((p) => p.id === arc.piece)!;
      // Feeds only lead to the port: turning them moves no match.
      const key = arc.face && piece.role !== 'feed' ? faceKey(settled.design, piece, arc.face) : undefined;
      const tunable = list.find((t) => t.key === key);
      return {
        piece: arc.piece,
        name: piece.name,
        points: arc.points,
        shown: tunable?.shown,
        follows: tunable?.expression !== undefined,
      };
    });
  }, [walk, settled]);

  const move = useHandler(
    (piece: string, to: (path: MatchPath, theta: number | undefined) => number | undefined) => {
      const now = useSession.getState().project;
      const own = now?.designs.find((d) => d.id === design.id);
      if (!now || !own || own !== design || !circuit) return;
      const path = walkOf(now, own, resolved, circuit, plane);
      const arc = path?.arcs.find((a) => a.piece === piece);
      const document = own.pieces.find((p) => p.id === piece);
      if (!path || !arc?.face || !document) return;
      const key = faceKey(own, document, arc.face);
      const tunable = tunables(now, own, resolved).find((t) => t.key === key);
      const share = to(path, resolved.pieces.find((p) => p.id === piece)?.values?.theta?.re);
      if (!tunable || share === undefined) return;
      if (tunable.expression !== undefined)
        say(
          `${tunable.label} was held by ${tunable.expression}; it is a number now and follows no longer. Undo brings it back.`,
        );
      const value = arc.inverse ? tunable.value / share : tunable.value * share;
      edit(`tune ${document.name}`, (p) => tuned(p, own.id, tunable, value), `${own.id}:tune:${tunable.key}`);
    },
  );
  const actions = useMemo(
    (): ArcActions => ({
      onTo: (piece, point) =>
        move(piece, (path, theta) => shareNearest(path, piece, point, theta ? STRIDE / theta : 0.5)),
      onStep: (piece, share) => move(piece, () => 1 + share),
      onEnd: endMerge,
    }),
    [move],
  );
  const pointed = useMemo(() => {
    if (!hovered || !circuit || arcs.length > 0 || plane) return undefined;
    return pathArc(design, resolved, circuit, dataFinder(project.data), hovered)?.points;
  }, [project, design, resolved, circuit, hovered, arcs, plane]);
  useEffect(() => onWalk({ arcs, actions, pointed }), [arcs, actions, pointed, onWalk]);
  return null;
}

function walkOf(
  project: Project,
  design: Design,
  resolved: ResolvedDesign,
  circuit: Circuit,
  plane: PlotPlane | undefined,
) {
  return matchPath(design, resolved, circuit, dataFinder(project.data), plane);
}
