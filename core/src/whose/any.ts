import { whoseGo } from './go';
import { whoseJava } from './java';
import { whosePython } from './python';
import { whoseRuby } from './ruby';
import { whoseRust } from './rust';
import { stateOf, whoseV8 } from './v8';
import { APP, NATIVE, type Whose } from './whose';

const BY_ENDING: Record<string, (name: string, file: string) => Whose> = {
  go: whoseGo,
  s: whoseGo,
  py: (_, file) => whosePython(file),
  pyx: (_, file) => whosePython(file),
  rb: (_, file) => whoseRuby(file),
  rs: (_, file) => whoseRust(file),
  java: whoseJava,
  kt: whoseJava,
  scala: whoseJava
};
/** What the machine runs as it is: libraries, and the sources they were built from. */
const MACHINE = /\.(?:c|cc|cpp|cxx|h|hh|hpp|dll|dylib|so(?:\.[\d.]+)?)$|^\[/i;

/** Whose code a frame of any language is, by the ending of its file. Without a file nothing tells: it counts as the application's. */
export function whoseAny(name: string, file: string): Whose {
  if (file === '') {
    const state = stateOf(name);
    return state && state.kind !== 'root' ? state : APP;
  }
  if (/^<(?:frozen|internal:)/.test(file))
    return file.startsWith('<frozen') ? whosePython(file) : whoseRuby(file);
  const by = BY_ENDING[/\.([a-z]+)$/i.exec(file)?.[1].toLowerCase() ?? ''];
  if (by) return by(name, file);
  return MACHINE.test(file) ? NATIVE : whoseV8(name, file, 1);
}
