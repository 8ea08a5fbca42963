import { describe, expect, it } from 'vitest';
import { groups } from './validation';

describe.each(groups.map((g) => [g.name, g.cases] as const))('%s', (_name, cases) => {
  it.each(cases.map((c) => [c.what, c.against, c] as const))('%s against %s', (_what, _against, c) => {
    const errors = c.errors();
    expect(errors.length).toBeGreaterThan(0);
    for (const error of errors) expect(error).toBeLessThanOrEqual(c.bound);
  });
});
