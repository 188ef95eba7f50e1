import { APP, dependency, RUNTIME, type Whose } from './whose';

/** Installed packages, then the standard library: the paths Python's `site` module documents. */
const INSTALLED = /[/\\](?:site|dist)-packages[/\\]([^/\\]+)/;
const STANDARD = /^<frozen |[/\\]lib(?:64)?[/\\]python\d[^/\\]*[/\\]|[/\\]Python\d+[/\\]Lib[/\\]/;

/** Whose code a Python function is. */
export function whosePython(file: string): Whose {
  const installed = INSTALLED.exec(file);
  if (installed) return dependency(installed[1].replace(/\.py$/, ''));
  return STANDARD.test(file) ? RUNTIME : APP;
}
