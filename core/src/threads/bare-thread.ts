import type { DumpThread } from './model';

/** A thread of which a dump gives only its name and number. */
export const bareThread = (name: string, id: string): DumpThread => ({
  name,
  id,
  nativeId: '',
  state: '',
  mode: 'unknown',
  daemon: false,
  virtual: false,
  system: false,
  cpuMs: null,
  elapsedMs: null,
  frames: new Int32Array(0),
  holds: [],
  waitsFor: null
});
