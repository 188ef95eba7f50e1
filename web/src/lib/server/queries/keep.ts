import { judge, type KeepRule } from '@tromix/core/trace/keep-rules';
import { scopeFrom } from '$lib/scope';
import { reader, select } from '../db/reader';
import { keepFacts, loadKeepRules } from '../ingest/keep-facts';
import { ROLLUP_DAYS } from '$lib/roll-up-steps';
import { settings } from '../settings';
import { totalIn } from './rollups';

const HOUR_US = 3_600_000_000;

export interface KeepPage {
  rules: KeepRule[];
  days: number;
  maxBytes: number;
  graceMinutes: number;
  /** How long roll-ups of each step are kept, days. */
  rollupDays: typeof ROLLUP_DAYS;
  /** Bytes of the database in use. */
  bytes: number;
  requests: number;
  oldestUs: number | null;
}

/** The keep rules and how much is kept. */
export async function keepOf(): Promise<KeepPage> {
  const rules = await loadKeepRules(await reader());
  const [{ bytes }] = await select<{ bytes: number }>(
    'SELECT ((SELECT page_count FROM pragma_page_count()) - (SELECT freelist_count FROM pragma_freelist_count())) * (SELECT page_size FROM pragma_page_size()) AS bytes'
  );
  const [{ requests, oldest }] = await select<{ requests: number; oldest: number | null }>(
    'SELECT count(*) AS requests, min(start_us) AS oldest FROM requests'
  );
  const { days, maxBytes, graceMinutes } = settings().retention;
  return { rules, days, maxBytes, graceMinutes, rollupDays: ROLLUP_DAYS, bytes, requests, oldestUs: oldest };
}

export interface KeepPreview {
  kept: number;
  of: number;
  byRule: number[];
  /** Requests counted in the hour, kept or not. */
  counted: number;
}

/** What rules would have kept of the last hour, in which every request is still there. */
export async function previewOf(rules: readonly KeepRule[], nowMs: number): Promise<KeepPreview> {
  const window = { fromUs: nowMs * 1000 - HOUR_US, toUs: nowMs * 1000 };
  const facts = await keepFacts(await reader(), rules, window.fromUs, window.toUs);
  const { kept, of, byRule } = judge(rules, facts);
  const counted = (await totalIn(scopeFrom(new URLSearchParams()), window, nowMs)).count;
  return { kept, of, byRule, counted };
}
