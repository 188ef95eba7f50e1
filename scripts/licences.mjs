// The licences of what is bundled into the package. Packages are named by their folder below the root.
import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { ROOT } from './prepare.mjs';

/** The packages that files of a bundle come from. */
export function packagesIn(files) {
  return files.flatMap((file) => /^(.*node_modules\/(?:@[^/]+\/)?[^/]+)\//.exec(file)?.[1] ?? []);
}

/** All that a workspace depends on, and what that depends on, by the lock file. */
export function packagesBelow(workspace) {
  const { packages } = JSON.parse(readFileSync(path.join(ROOT, 'package-lock.json'), 'utf8'));
  /** A package is found beside who asks for it, or further up. */
  const folderOf = (name, asker) => {
    for (let at = asker; ; at = at.slice(0, Math.max(0, at.lastIndexOf('/node_modules/')))) {
      const folder = at === '' ? `node_modules/${name}` : `${at}/node_modules/${name}`;
      if (packages[folder]) return packages[folder].link ? packages[folder].resolved : folder;
      if (at === '') return null;
    }
  };
  const found = new Set([workspace]);
  for (const folder of found)
    for (const name of Object.keys(packages[folder].dependencies ?? {})) {
      const below = folderOf(name, folder);
      if (below) found.add(below);
    }
  return [...found].filter((folder) => folder.includes('node_modules/'));
}

/** The licence of each, with its text where it ships one. @throws where a package has neither. */
export function licencesOf(folders) {
  return folders
    .map((folder) => {
      const at = path.join(ROOT, folder);
      const { name, version, license } = JSON.parse(readFileSync(path.join(at, 'package.json'), 'utf8'));
      const file = readdirSync(at).find((one) => /^licen[cs]e/i.test(one));
      if (!license && !file) throw new Error(`${name} has no licence.`);
      const text = file ? readFileSync(path.join(at, file), 'utf8').trim() : '';
      return `${name} ${version}\n${license ?? ''}\n\n${text}\n`;
    })
    .join(`\n${'-'.repeat(72)}\n\n`);
}
