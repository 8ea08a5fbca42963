import type { Problems, ResolvedPiece } from './contract';

/** Whether the ports of a design can be numbered as those of its S-parameters. */
export function checkPorts(pieces: readonly ResolvedPiece[], problems: Problems): void {
  const numbers = pieces.filter((p) => p.kind === 'port').map((p) => Number(p.settings.number));
  if (numbers.length === 0) problems.say({ kind: 'design' }, 'it has no port');
  else if (numbers.sort((a, b) => a - b).some((n, i) => n !== i + 1))
    problems.say({ kind: 'design' }, 'its ports must be numbered 1, 2, 3 \u2026 without gaps');
}
