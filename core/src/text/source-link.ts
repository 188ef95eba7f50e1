/** Where the source of a program lies, as its process says (OpenTelemetry semantic conventions, `vcs.*`). */
export interface Revision {
  /** `vcs.ref.head.revision`; '' where it is not told. */
  revision: string;
  /** `vcs.repository.url.full`; '' where it is not told. */
  repository: string;
}

/** What a template may name. */
const PARTS = /\{(repository|revision|file|line)\}/g;

/**
 * The address of a line at the revision that ran, by a template such as `{repository}/src/{revision}/{file}#{line}`.
 * @returns '' where the template names what is not told, or comes to no address of the web
 */
export function sourceLink(
  template: string,
  { revision, repository }: Revision,
  { file, line }: { file: string; line: number }
): string {
  const values: Record<string, string> = {
    // An address as it is, without what follows its path.
    repository: repository.replace(/\.git$|\/+$/, ''),
    revision: encodeURIComponent(revision),
    file: file.replace(/^\/+/, '').split('/').map(encodeURIComponent).join('/'),
    line: String(line)
  };
  let isTold = template !== '';
  const address = template.replace(PARTS, (_, name: string) => {
    isTold &&= values[name] !== '';
    return values[name];
  });
  return isTold && /^https?:\/\/[^\s"'<>]+$/.test(address) ? address : '';
}
