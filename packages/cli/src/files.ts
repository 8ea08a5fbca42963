import {
  accessSync,
  chmodSync,
  constants,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { basename, dirname, join, resolve } from 'node:path';
import { UsageError } from './errors';

const reasons: Record<string, string> = {
  ENOENT: 'no such file or folder',
  EACCES: 'no permission',
  EPERM: 'no permission',
  EISDIR: 'is a folder',
  ENOTDIR: 'a part of the path is not a folder',
  ENOSPC: 'the disk is full',
  EROFS: 'the file system is read-only',
  ENAMETOOLONG: 'the name is too long',
  READONLY: 'it is read-only',
};

const reason = (error: unknown): string => {
  const { code, message } = error as NodeJS.ErrnoException;
  return (code && reasons[code]) || message;
};

export function readText(path: string): string {
  try {
    return readFileSync(path, 'utf8');
  } catch (error) {
    throw new UsageError(`${path}: cannot be read (${reason(error)})`);
  }
}

/** Names of files under way: hidden, beside their target, with the process that writes them. */
const temporaryName = (target: string): string =>
  `.${basename(target).slice(0, 100)}.${process.pid}.ditch.tmp`;
const TEMPORARY = /^\..*\.(\d+)\.ditch\.tmp$/;

/** Removes what processes left behind that were killed while they wrote. */
function clearUp(folder: string): void {
  try {
    for (const name of readdirSync(folder)) {
      const pid = TEMPORARY.exec(name)?.[1];
      if (pid === undefined || Number(pid) === process.pid || isAlive(Number(pid))) continue;
      rmSync(join(folder, name), { force: true, recursive: true });
    }
  } catch {
    // A folder that cannot be listed is no reason not to write into it.
  }
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}

/**
 * Writes a file as a whole or not at all: beside its target first, then renamed over it. The target keeps its mode; one
 * that may not be written is left alone, though a rename could replace it.
 */
export function writeWhole(path: string, content: string | Uint8Array): void {
  let target = path;
  let temporary: string | undefined;
  let mode: number | undefined;
  try {
    try {
      target = realpathSync(path);
      const stat = statSync(target);
      if (stat.isDirectory()) throw Object.assign(new Error('is a folder'), { code: 'EISDIR' });
      // Devices and pipes have no old content to keep and cannot be renamed over.
      if (!stat.isFile()) {
        writeFileSync(target, content);
        return;
      }
      mode = stat.mode & 0o7777;
      // Root may write everything; what somebody has protected stays all the same.
      if ((mode & 0o222) === 0) throw Object.assign(new Error('is read-only'), { code: 'READONLY' });
      accessSync(target, constants.W_OK);
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'ENOENT') throw error;
    }
    clearUp(dirname(target));
    temporary = join(dirname(target), temporaryName(target));
    writeFileSync(temporary, content, { flag: 'wx' });
    if (mode !== undefined) chmodSync(temporary, mode);
    renameSync(temporary, target);
  } catch (error) {
    if (temporary) rmSync(temporary, { force: true });
    throw new UsageError(`--out: ${path} cannot be written (${reason(error)})`);
  }
}

/**
 * A folder that is made as a whole or not at all: beside its place first, then renamed. One that is there already is left alone,
 * unless it holds nothing but what is written again.
 */
export class FolderWriter {
  private readonly temporary: string;
  private readonly target: string;

  /** @param own tells what may be replaced by its name */
  constructor(
    path: string,
    private readonly own: (name: string) => boolean,
  ) {
    this.target = resolve(path);
    this.temporary = join(dirname(this.target), temporaryName(this.target));
    this.attempt(() => {
      if (existsSync(this.target)) {
        if (!statSync(this.target).isDirectory())
          throw Object.assign(new Error('there is a file of that name'), { code: '' });
        const other = readdirSync(this.target).find((name) => !this.own(name));
        if (other !== undefined)
          throw Object.assign(new Error(`the folder is there already and holds ${other}`), { code: '' });
      }
      clearUp(dirname(this.target));
      mkdirSync(this.temporary);
    });
  }

  write(name: string, content: string): void {
    this.attempt(() => writeFileSync(join(this.temporary, name), content, { flag: 'wx' }));
  }

  /** Puts the folder in its place. */
  keep(): void {
    this.attempt(() => {
      const before = `${this.temporary}.before`;
      const replaces = existsSync(this.target);
      if (replaces) renameSync(this.target, before);
      try {
        renameSync(this.temporary, this.target);
      } catch (error) {
        if (replaces) renameSync(before, this.target);
        throw error;
      }
      if (replaces) rmSync(before, { recursive: true, force: true });
    });
  }

  discard(): void {
    rmSync(this.temporary, { recursive: true, force: true });
  }

  private attempt(work: () => void): void {
    try {
      work();
    } catch (error) {
      this.discard();
      throw new UsageError(`--out: ${this.target} cannot be written (${reason(error)})`);
    }
  }
}

/** Prints to standard output; a disk that is full there is an error in words like any other. */
export function print(text: string): void {
  try {
    let rest = Buffer.from(text);
    while (rest.length > 0) {
      try {
        rest = rest.subarray(writeSync(1, rest));
      } catch (error) {
        // A pipe whose reader is slow.
        if ((error as NodeJS.ErrnoException).code !== 'EAGAIN') throw error;
        Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 5);
      }
    }
  } catch (error) {
    // The reader of a pipe may leave early.
    if ((error as NodeJS.ErrnoException).code === 'EPIPE') return;
    throw new UsageError(`standard output cannot be written (${reason(error)})`);
  }
}
