import type { ErrorCode, WarningCode } from './codes';

/** Why a piece of evidence could not be read. `code` is stable; `message` is for people. */
export class EvidenceError extends Error {
  readonly code: ErrorCode;
  /** Byte offset in the (inflated) input where reading stopped, when it is known. */
  readonly offset: number | undefined;

  constructor(code: ErrorCode, message: string, offset?: number) {
    super(message);
    this.name = 'EvidenceError';
    this.code = code;
    this.offset = offset;
  }
}

export interface Warning {
  code: WarningCode;
  message: string;
  count: number;
}

/** Collects warnings: one entry for each code, counted, worded by the first that came. */
export class Warnings {
  readonly #byCode = new Map<string, Warning>();

  add(code: WarningCode, message: string, count = 1): void {
    if (count <= 0) return;
    const known = this.#byCode.get(code);
    if (known) known.count += count;
    else this.#byCode.set(code, { code, message, count });
  }

  list(): Warning[] {
    return [...this.#byCode.values()];
  }
}
