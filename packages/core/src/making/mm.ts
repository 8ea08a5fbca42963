/** A length in mm to a nanometre, as files have it. */
export const mm = (x: number): string => {
  const text = (x * 1e3).toFixed(6);
  return text.replace(/\.?0+$/, '') === '-0' ? '0' : text.replace(/\.?0+$/, '');
};
