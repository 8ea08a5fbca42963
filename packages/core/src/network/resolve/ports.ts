import { parts } from '../../parts';
import type { Problems, ResolvedPiece } from './contract';

/** The uniform line at a port, with its length in m. */
export function lineOfPort(
  port: Pick<ResolvedPiece, 'nodes'>,
  pieces: readonly ResolvedPiece[],
): { readonly line: ResolvedPiece; readonly length: number } | undefined {
  const met = pieces.filter((p) => p.nodes.length === 2 && p.nodes.includes(port.nodes[0]));
  const [line] = met;
  const length = line?.values && parts.get(line.kind)?.line?.(line.values).length;
  return met.length === 1 && length !== undefined ? { line, length } : undefined;
}

/** Whether the ports of a design can be numbered as those of its S-parameters. */
export function checkPorts(pieces: readonly ResolvedPiece[], problems: Problems): void {
  const numbers = pieces.filter((p) => p.kind === 'port').map((p) => Number(p.settings.number));
  if (numbers.length === 0) problems.say({ kind: 'design' }, 'it has no port');
  else if (numbers.sort((a, b) => a - b).some((n, i) => n !== i + 1))
    problems.say({ kind: 'design' }, 'its ports must be numbered 1, 2, 3 \u2026 without gaps');
  for (const port of pieces) {
    const plane = port.kind === 'port' ? (port.values?.plane?.re ?? 0) : 0;
    if (!(plane > 0)) continue;
    const at = { kind: 'piece', piece: port.id, face: 'plane' } as const;
    const met = lineOfPort(port, pieces);
    if (!met) problems.say(at, 'there is no line at this port whose inside it could lie in');
    else if (plane >= met.length) problems.say(at, 'lies beyond the line at this port');
  }
}
