/** An error for the person at the command line: one line, exit code 2. */
export class UsageError extends Error {}

/** Throws the one-line error of an option: `--height: must be greater than zero`. */
export function optionError(option: string, message: string): never {
  throw new UsageError(`--${option}: ${message}`);
}
