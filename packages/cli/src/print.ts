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
