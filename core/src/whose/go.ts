import { APP, dependency, RUNTIME, type Whose } from './whose';

/** Modules that were fetched, and copies of them in a program's own folder (Go's module cache and `vendor`). */
const MODULE = /[/\\]pkg[/\\]mod[/\\](.+?@[^/\\]+)|[/\\]vendor[/\\]([^/\\]+[/\\][^/\\]+(?:[/\\][^/\\]+)?)/;
const STANDARD =
  /[/\\]go(?:\d[^/\\]*)?[/\\]src[/\\]|[/\\]usr[/\\](?:lib|local)[/\\]go[^/\\]*[/\\]src[/\\]|[/\\]usr[/\\]share[/\\]go-[\d.]+[/\\]src[/\\]/;

/** Where paths are trimmed, the standard library is told by its packages (source: the folders of Go 1.19's own `src`). */
const PACKAGES = new Set(
  (
    'archive bufio builtin bytes compress container context crypto database debug embed encoding errors expvar flag fmt go hash html image index ' +
    'internal io log math mime net os path plugin reflect regexp runtime sort strconv strings sync syscall testing text time unicode unsafe'
  ).split(' ')
);

/** Whose code a Go function is. @param name with the path of its package: `net/http.(*conn).serve` */
export function whoseGo(name: string, file: string): Whose {
  const found = MODULE.exec(file);
  if (found) return dependency(found[1] ?? found[2]);
  // The standard library's packages have no dot in the first part of their path; a program's own is called main or has one.
  const first = name.split(/[/.]/)[0];
  const path = name.slice(0, name.lastIndexOf('/') + 1);
  const isTrimmed = !/^(?:[/\\]|[A-Za-z]:)/.test(file);
  const standard = STANDARD.test(file) || (isTrimmed && PACKAGES.has(first));
  return standard && !path.includes('.') && first !== 'main' ? RUNTIME : APP;
}
