import { whoseJava } from '../whose/java';
import type { ThreadFrame } from './model';

/**
 * Reads `pkg.Class.method(module@version/File.java:12)` (HotSpot's thread dumps) and
 * `loader/module@version/pkg.Class.method(File.java:12)` (`StackTraceElement.toString`, as in JSON dumps).
 */
export function javaFrame(text: string): ThreadFrame {
  const open = text.lastIndexOf('(', text.endsWith(')') ? text.length - 1 : text.length);
  const called = open < 0 ? text : text.slice(0, open);
  const name = called.slice(called.lastIndexOf('/', lastPlain(called)) + 1).trim();
  const placed = open < 0 ? '' : text.slice(open + 1, text.endsWith(')') ? -1 : undefined);
  const place = placed.slice(placed.lastIndexOf('/') + 1);
  const colon = /:(\d+)$/.exec(place);
  const file = colon ? place.slice(0, colon.index) : place;
  const noFile = file === 'Native Method' || file === 'Unknown Source' || file === '<generated>';
  const whose = whoseJava(name);
  return {
    name,
    file: noFile ? '' : file,
    line: colon ? Number(colon[1]) : 0,
    column: 0,
    ...whose,
    ...(whose.kind === 'app' && file === 'Native Method' ? { kind: 'native' } : {})
  };
}

/** Hidden classes carry a slash and a number of their own (`Class$$Lambda/0x0000000801`): only what stands before it parts a module. */
function lastPlain(called: string): number {
  const hidden = called.search(/\$\$Lambda.*\/|\/0x/);
  return hidden < 0 ? called.length : hidden;
}
