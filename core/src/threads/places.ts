import type { DumpThread, ThreadFrame } from './model';

/** Depth of the topmost frame outside the runtime's own packages; −1 where all are the runtime's. */
export function ownDepth(
  frames: readonly ThreadFrame[],
  { frames: stack }: Pick<DumpThread, 'frames'>
): number {
  return stack.findIndex((frame) => frames[frame].kind !== 'runtime');
}

/** Where a thread stands: its topmost frame outside the runtime, or its topmost at all; null without a stack. */
export function placeOf(
  frames: readonly ThreadFrame[],
  thread: Pick<DumpThread, 'frames'>
): ThreadFrame | null {
  if (thread.frames.length === 0) return null;
  return frames[thread.frames[Math.max(0, ownDepth(frames, thread))]];
}

/** `Class.method (File:line)`: packages are left out, as people do when they talk. */
export function placeWords({ name, file, line }: Pick<ThreadFrame, 'name' | 'file' | 'line'>): string {
  const short = file.slice(Math.max(file.lastIndexOf('/'), file.lastIndexOf('\\')) + 1);
  return short ? `${shortName(name)} (${short}${line > 0 ? `:${line}` : ''})` : shortName(name);
}

/** The last two parts of a qualified name, without the classes around an inner one. */
export function shortName(name: string): string {
  const plain = name.slice(name.lastIndexOf('/') + 1);
  const parts = plain.split('.');
  const qualified = parts.length > 2 && /^[a-z_]/.test(parts[0]) && !plain.includes('(');
  return (qualified ? parts.slice(-2).join('.') : plain).replace(/^(?:\w+\$)+(?=[A-Z]\w*\.)/, '');
}

/** `PilotLedger` of `quillhaven.pilots.PilotLedger`, `ReentrantLock` of its inner `NonfairSync`. */
export function shortClass(className: string): string {
  const inner = /^java\.lang\.Class for (.+)$/.exec(className);
  if (inner) return `class ${shortClass(inner[1])}`;
  return className
    .slice(className.lastIndexOf('.') + 1)
    .replace(/\$(?:Nonfair|Fair)?Sync$/, '')
    .replace(/^.*\$(?=\D)/, '');
}

/** `0x…9c40`: what tells one address from another, as far as it takes. */
export function shortLock(id: string): string {
  const at = id.lastIndexOf('@');
  if (at >= 0) return `@${id.slice(at + 1)}`;
  return id.length > 8 && id.startsWith('0x') ? `0x…${id.slice(-4)}` : id;
}

/** Short names of the locks of a dump: as many digits as it takes to tell them apart. */
export function shortLocks(ids: readonly string[]): string[] {
  for (let digits = 4; digits < 16; digits++) {
    const short = ids.map((id) =>
      id.startsWith('0x') && id.length > digits + 2 ? `0x…${id.slice(-digits)}` : shortLock(id)
    );
    if (new Set(short).size === new Set(ids).size) return short;
  }
  return [...ids];
}
