import type { Design } from '../network';
import { addAfter, freshName, freshNode, moveToNode, renameNode } from './document';
import { GrowError, makePiece } from './grow';

const isLaunch = (design: Design, node: string): boolean =>
  design.pieces.some((p) => p.kind === 'launch' && p.nodes.includes(node));

/**
 * Puts a launch between each port and what it meets; a port that has one keeps it.
 * @param variant of the launch
 * @throws GrowError where there is none to put
 */
export function launchAll(design: Design, variant: string): Design {
  const bare = design.pieces.filter((p) => p.kind === 'port' && !isLaunch(design, p.nodes[0]));
  if (bare.length === 0) throw new GrowError('every port has a launch already');
  return bare.reduce((d, port) => {
    const outside = freshNode();
    const [node] = port.nodes;
    const made = makePiece(d, variant, outside);
    const launch = {
      ...made,
      name: freshName(d, `launch ${port.settings?.number ?? ''}`.trim()),
      nodes: [outside, node],
    };
    const moved = moveToNode(d, port.id, 0, outside);
    return addAfter(moved, port.id, [launch]);
  }, design);
}

/** Takes all launches off; ports stand where they stood. */
export const withoutLaunches = (design: Design): Design =>
  design.pieces
    .filter((p) => p.kind === 'launch')
    .reduce((d, launch) => {
      const [outside, inside] = launch.nodes;
      return renameNode({ ...d, pieces: d.pieces.filter((p) => p.id !== launch.id) }, outside, inside);
    }, design);
