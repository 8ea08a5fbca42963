import type { Steps } from '@ditch/core/numeric';
/** An aligned table of labels and values for a person to read. */
export function table(rows: readonly (readonly string[])[]): string {
  const widths = rows[0].map((_, i) => Math.max(...rows.map((r) => r[i].length)));
  return `${rows
    .map((r) =>
      r
        .map((c, i) => (i === r.length - 1 ? c : c.padEnd(widths[i])))
        .join('  ')
        .trimEnd(),
    )
    .join('\n')}\n`;
}

/** Runs to the end; who watches a terminal sees how far it is. */
export function watched<T>(steps: Steps<T>): T {
  const isSeen = process.stderr.isTTY;
  let told = 0;
  for (;;) {
    const step = steps.next();
    if (step.done) {
      if (isSeen) process.stderr.write('\r\u001b[K');
      return step.value;
    }
    const now = Date.now();
    if (!isSeen || now - told < 100) continue;
    told = now;
    process.stderr.write(`\rsolving: ${Math.round(100 * step.value)} %`);
  }
}
