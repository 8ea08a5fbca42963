import { readFileSync, realpathSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
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

/** Writes a file as a whole or not at all: beside its target first, then renamed over it. */
export function writeWhole(path: string, content: string): void {
  let target = path;
  let temporary: string | undefined;
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
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'ENOENT') throw error;
    }
    temporary = join(dirname(target), `.${basename(target).slice(0, 100)}.${process.pid}.tmp`);
    writeFileSync(temporary, content, { flag: 'wx' });
    renameSync(temporary, target);
  } catch (error) {
    if (temporary) rmSync(temporary, { force: true });
    throw new UsageError(`--out: ${path} cannot be written (${reason(error)})`);
  }
}
