/**
 * The Jacobian of residuals by central differences, one-sided where one side is impossible. Yields the share done after each
 * column.
 * @param residuals fills `out` for `x`; false where `x` is impossible
 * @param r residuals at `x`
 * @param out receives the derivatives, a row of as many as unknowns for each residual
 */
export function* differenceSteps(
  residuals: (x: readonly number[], out: Float64Array) => boolean,
  x: readonly number[],
  r: Float64Array,
  step: readonly number[],
  out: Float64Array,
): Generator<number, void, void> {
  const [n, m] = [x.length, r.length];
  const [plus, minus] = [new Float64Array(m), new Float64Array(m)];
  for (let j = 0; j < n; j++) {
    const shifted = [...x];
    shifted[j] = x[j] + step[j];
    const forward = residuals(shifted, plus);
    shifted[j] = x[j] - step[j];
    const backward = residuals(shifted, minus);
    const width = (Number(forward) + Number(backward)) * step[j];
    for (let i = 0; i < m; i++)
      out[i * n + j] = width === 0 ? 0 : ((forward ? plus[i] : r[i]) - (backward ? minus[i] : r[i])) / width;
    yield (j + 1) / n;
  }
}
