import { readFile } from 'node:fs/promises';
import { parentPort } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import { EvidenceError, type Warning } from '@tromix/core/formats/evidence-error';
import { gunzip } from '@tromix/core/formats/gzip';
import { readStatementLog, type StatementLog } from '@tromix/core/calls/statement-log';
import {
  isProfile,
  isStatementLog,
  isThreads,
  recognise,
  type EvidenceFormat
} from '@tromix/core/formats/recognise';
import { summariseThreads, type ThreadsSummary } from '@tromix/core/threads/summary';
import { readThreads } from '@tromix/core/threads/read';
import { readProfile } from '@tromix/core/profile/read';
import type { Profile } from '@tromix/core/profile/model';
import { slice } from '@tromix/core/profile/slice';
import type { Outcome } from '../ingest/outcome';

export interface ExaminedEvidence {
  format: EvidenceFormat;
  warnings: Warning[];
  durationNs: number;
  /** What a log of statements tells; absent for others. */
  statements?: StatementLog;
  /** What thread dumps tell; absent for others. */
  threads?: ThreadsSummary;
  /** Figures of a profile; absent for others. */
  profile?: Pick<Profile, 'valueType' | 'unit'> & {
    samples: number;
    /** In the profile's unit, idle apart. */
    sum: number;
    idle: number;
    functions: number;
    startTimeUs: number;
  };
}

/** Looks at an uploaded file off the server's own thread: what it is, and whether it can be read whole. */
class EvidenceExaminer {
  async examine(file: string, maxInflatedBytes: number): Promise<Outcome<ExaminedEvidence>> {
    try {
      const content = gunzip(await readFile(file), {
        maxBytes: maxInflatedBytes,
        setting: 'TROMIX_MAX_PROFILE_BYTES'
      });
      const format = recognise(content);
      if (isStatementLog(format)) {
        const statements = readStatementLog(new TextDecoder().decode(content), format);
        const { firstUs, lastUs, warnings } = statements;
        const durationNs = firstUs === null || lastUs === null ? 0 : (lastUs - firstUs) * 1000;
        return { ok: true, value: { format, warnings, durationNs, statements } };
      }
      if (isThreads(format)) {
        const { series, warnings } = readThreads(content, format);
        const threads = summariseThreads(series);
        const { firstMs, lastMs } = threads;
        const durationNs = firstMs === null || lastMs === null ? 0 : (lastMs - firstMs) * 1e6;
        return { ok: true, value: { format, warnings, durationNs, threads } };
      }
      if (!isProfile(format)) return { ok: true, value: { format, warnings: [], durationNs: 0 } };
      const { profile, startTimeUs, warnings } = readProfile(content, format);
      const { sum, idle } = slice(profile);
      const figures = {
        valueType: profile.valueType,
        unit: profile.unit,
        samples: profile.sampleNode.length,
        sum,
        idle,
        functions: profile.frames.length,
        startTimeUs
      };
      return { ok: true, value: { format, warnings, durationNs: profile.durationNs, profile: figures } };
    } catch (cause) {
      if (!(cause instanceof EvidenceError)) throw cause;
      return { ok: false, code: cause.code, message: cause.message, offset: cause.offset };
    }
  }
}
export type { EvidenceExaminer };

expose(new EvidenceExaminer(), nodeEndpoint(parentPort!));
