// On a CI machine property tests meet the same cases in every run, so that a change is judged by what it changes. At a
// desk every run meets new ones.
import fc from 'fast-check';

if (process.env.CI) fc.configureGlobal({ ...fc.readConfigureGlobal(), seed: 10_550_000 });
