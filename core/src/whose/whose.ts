import type { FrameKind } from '../profile/model';

/** Whose code a frame is, as its name and file tell. */
export interface Whose {
  kind: FrameKind;
  /** Package of a dependency; '' for the rest. */
  package: string;
}

export const APP: Whose = { kind: 'app', package: '' };
export const RUNTIME: Whose = { kind: 'runtime', package: '' };
export const NATIVE: Whose = { kind: 'native', package: '' };
export const dependency = (name: string): Whose => ({ kind: 'dependency', package: name });
