import { EvidenceError } from '../../formats/evidence-error';
import { FileHead } from '../../formats/file-head';
import {
  attributesOf,
  DEFAULT_VALUE_LIMITS,
  listOf,
  refuseTooManyParts,
  type Loose
} from '../../formats/otlp/values';
import { BYTES, endOf, readerOf } from '../../formats/wire';
import { damagedJson, parseJson } from '../../formats/parse-json';
import { resourceFrom } from '../../trace/resource';
import type { Resource } from '../../trace/span';
import { ProfilesData } from './schema';

/** One profile of a message, with whose it is. The dictionary is that of the whole message. */
export interface ToldProfile {
  resource: Resource;
  /** As it was sent. */
  told: Loose | undefined;
  profile: Loose;
}
export interface OtlpProfiles {
  profiles: ToldProfile[];
  dictionary: Loose;
}

/**
 * Decodes OTLP profiles of the schema `v1development`, in protobuf or JSON.
 * @throws EvidenceError `otlp-damaged`, `json-damaged`, `not-otlp`, `too-many-parts`.
 */
export function decodeOtlpProfiles(content: Uint8Array): OtlpProfiles {
  const document = new FileHead(content).isObject ? ofJson(content) : ofProtobuf(content);
  const profiles: ToldProfile[] = [];
  for (const group of listOf(document.resourceProfiles)) {
    const told = group.resource as Loose | undefined;
    let resource: Resource | undefined;
    for (const scope of listOf(group.scopeProfiles))
      for (const profile of listOf(scope.profiles)) {
        resource ??= resourceFrom(attributesOf(told?.attributes, DEFAULT_VALUE_LIMITS, () => undefined));
        profiles.push({ resource, told, profile });
      }
  }
  return { profiles, dictionary: (document.dictionary ?? {}) as Loose };
}

function ofJson(content: Uint8Array): Loose {
  const text = new TextDecoder().decode(content);
  refuseTooManyParts(text);
  let raw: unknown;
  try {
    raw = parseJson(text);
  } catch (cause) {
    throw damagedJson(cause, 'OTLP profiles in JSON', 'Send them again whole.');
  }
  const document = raw as Loose | null;
  if (typeof document !== 'object' || document === null || !Array.isArray(document.resourceProfiles))
    throw new EvidenceError(
      'not-otlp',
      'Expected an OTLP object with a list resourceProfiles, but it has none.'
    );
  return document;
}

function ofProtobuf(content: Uint8Array): Loose {
  try {
    refuseTooManyMessages(content);
    return ProfilesData.decode(content) as unknown as Loose;
  } catch (cause) {
    if (cause instanceof EvidenceError) throw cause;
    throw new EvidenceError(
      'otlp-damaged',
      `Expected OTLP profiles of the schema v1development in protobuf, but the bytes do not decode: ${(cause as Error).message}.`
    );
  }
}

/** Messages of one file: each takes many times as much memory as its two bytes. */
const MAX_MESSAGES = 4_000_000;

/** Fields that are messages themselves, by number. */
interface Nesting {
  [field: number]: Nesting;
}
const LEAF: Nesting = {};
const NESTING: Nesting = {
  1: { 1: { 1: LEAF }, 2: { 2: { 1: LEAF, 2: LEAF } } },
  2: { 1: LEAF, 2: { 3: LEAF }, 3: LEAF, 5: LEAF, 6: LEAF, 7: LEAF }
};

/** Looks at a message before it is decoded. @throws EvidenceError `too-many-parts`; RangeError or Error where it is damaged. */
function refuseTooManyMessages(content: Uint8Array): void {
  const reader = readerOf(content);
  let messages = 0;
  const walk = (end: number, nesting: Nesting): void => {
    while (reader.pos < end) {
      const found = reader.uint32();
      const inner = (found & 7) === BYTES ? nesting[found >>> 3] : undefined;
      if (inner === undefined) {
        reader.skipType(found & 7);
        continue;
      }
      if (++messages > MAX_MESSAGES)
        throw new EvidenceError(
          'too-many-parts',
          `Expected at most ${MAX_MESSAGES} samples, stacks and places in one file of OTLP profiles, but found more. Send fewer at once.`
        );
      const stop = endOf(reader);
      if (inner === LEAF) reader.pos = stop;
      else walk(stop, inner);
    }
  };
  walk(reader.len, NESTING);
}
