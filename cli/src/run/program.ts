import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import path from 'node:path';

/** What a folder says of the program in it; '' for what it does not say. */
export interface Program {
  name: string;
  version: string;
  /** The revision it is at, short, and its branch. */
  revision: string;
  branch: string;
  /** Address of the repository, without a user in it. */
  repository: string;
}

/** Reads the nearest `package.json` upwards, and the revision of the repository. */
export function programAt(folder: string): Program {
  const git = (...args: string[]): string => {
    try {
      return execFileSync('git', args, {
        cwd: folder,
        encoding: 'utf8',
        stdio: ['ignore', 'pipe', 'ignore']
      }).trim();
    } catch {
      return '';
    }
  };
  return {
    ...nearestPackage(folder),
    revision: git('rev-parse', '--short', 'HEAD'),
    branch: git('symbolic-ref', '--short', '-q', 'HEAD'),
    repository: git('config', '--get', 'remote.origin.url').replace(/^(\w+:\/\/)[^@/]*@/, '$1')
  };
}

function nearestPackage(folder: string): Pick<Program, 'name' | 'version'> {
  try {
    const read = JSON.parse(readFileSync(path.join(folder, 'package.json'), 'utf8')) as Record<
      string,
      unknown
    >;
    const text = (value: unknown): string => (typeof value === 'string' ? value : '');
    return { name: text(read.name), version: text(read.version) };
  } catch {
    const above = path.dirname(folder);
    return above === folder ? { name: '', version: '' } : nearestPackage(above);
  }
}
