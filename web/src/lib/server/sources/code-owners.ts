import ignore from 'ignore';

/** A line of a `CODEOWNERS` file. */
interface Rule {
  matches: (path: string) => boolean;
  owners: string[];
}

const MAX_RULES = 5000;

/** `docs/*` stands for the files of that folder, not for those below it, as forges document it; null for a pattern of any depth. */
const depthOf = (pattern: string): number | null =>
  /[^*]\/\*$/.test(pattern) && !pattern.includes('**') ? pattern.replace(/^\//, '').split('/').length : null;

/**
 * Who owns a file by a `CODEOWNERS` file: of the lines whose pattern matches the last one counts; it may name nobody. Patterns are those of `.gitignore`, without exceptions (`!`).
 * @param path relative to the folder the file is about, with `/` between its parts
 * @returns null where no line is about it
 */
export function ownersOf(codeOwners: string, path: string): string[] | null {
  return rulesOf(codeOwners).findLast(({ matches }) => matches(path))?.owners ?? null;
}

function rulesOf(text: string): Rule[] {
  return text
    .split(/\r?\n/)
    .slice(0, MAX_RULES)
    .flatMap((line): Rule[] => {
      // A sign of a comment may be escaped; a head of a section, as some forges have, is no pattern.
      const words = line.replace(/(^|\s)#.*$/, '').trim();
      if (words === '' || /^\^?\[/.test(words)) return [];
      const [pattern, ...owners] = words.split(/(?<!\\)\s+/);
      if (pattern.startsWith('!')) return [];
      const matcher = ignore().add(pattern);
      const depth = depthOf(pattern);
      return [
        {
          matches: (path) =>
            path !== '' && matcher.ignores(path) && (depth === null || path.split('/').length === depth),
          owners
        }
      ];
    });
}
