import type { StackFrame } from './stack-frame';

const SCRIPT = /\.(?:[cm]?[jt]sx?|vue|svelte)$/i;
/** Engines of JavaScript name the object a method was called on, which need not be of the class that has it, and functions without a name in ways of their own. */
export function functionName({ function: name, file }: StackFrame): string {
  const plain = plainFunction(name);
  if (!SCRIPT.test(plainFile(file))) return plain;
  return /<$|^<anonymous>$/.test(plain)
    ? ''
    : plain.replace(/^.*[./](?=[^./]+$)/, '').replace(/^<anonymous>$/, '');
}

/** A function's name without what compilers and runtimes number anew with each build. */
export const plainFunction = (name: string): string =>
  name
    .replace(/^(?:async |new |get |set )+/, '')
    // PHP: its separators as the others'.
    .replace(/\\|->|::/g, '.')
    .replace(/ \[as .*\]$/, '')
    // JVM: lambdas, proxies, generated accessors.
    .replace(/lambda\$(\w+)\$\d+/g, 'lambda in $1')
    .replace(/\$\$(?:Lambda|FastClass|Enhancer|SpringCGLIB|EnhancerBy\w+)[\w$/.]*?(?=\.\w+$|$)/g, '')
    .replace(/\$\d+(?=\.|$)/g, '')
    // Go: closures, generics; the receiver stays.
    .replace(/\.func\d+(?:\.\d+)*/g, '.func')
    .replace(/\[\.{3}\]/g, '')
    // Ruby: levels of blocks.
    .replace(/^block (?:\(\d+ levels?\) )?in /, 'block in ')
    .replace(/^rescue in |^ensure in /, '')
    // .NET: state machines of async methods, display classes of closures.
    .replace(/\+?<(\w*)>[db]__\d+(?:_\d+)?(?:\.MoveNext)?/g, '.$1')
    .replace(/[+.]<>c(?:__DisplayClass\d+_\d+)?/g, '')
    .slice(0, 200);

/** The end of a file's path, which is the same wherever the program lies, without the hash a build gave it. */
export function plainFile(file: string): string {
  const path = file.replace(/[?#].*$/, '').replace(/^(?:https?:\/\/[^/]*|[a-z-]+:\/\/\/?)/i, '');
  const parts = path.split(/[\\/]/).filter(Boolean);
  return parts
    .slice(-2)
    .join('/')
    .replace(/([.-])(?=[\w-]*\d)[0-9a-zA-Z_-]{8,32}(?=\.\w+$)/, '')
    .slice(0, 200);
}

/** The last part of a qualified name. */
export const lastName = (name: string): string => name.split(/[.:$\\\s>]/).at(-1)!;
