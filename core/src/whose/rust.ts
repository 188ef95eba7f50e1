import { APP, dependency, RUNTIME, type Whose } from './whose';

/** Where Cargo keeps what it fetched: `…/registry/src/index-…/name-1.2.3/src/lib.rs`. */
const CRATE = /[/\\](?:registry[/\\]src|checkouts)[/\\][^/\\]+[/\\]([^/\\]+?)(?:-\d[^/\\]*)?[/\\]/;
const STANDARD = /^[/\\]rustc[/\\]|[/\\]rustlib[/\\]src[/\\]/;

/** Whose code a Rust function is. */
export function whoseRust(file: string): Whose {
  const crate = CRATE.exec(file);
  if (crate) return dependency(crate[1]);
  return STANDARD.test(file) ? RUNTIME : APP;
}
