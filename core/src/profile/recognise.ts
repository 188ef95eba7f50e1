import type { FileHead } from '../formats/file-head';
import { looksFolded } from './folded';
import { looksLikeJfrJson } from './jfr-json';
import { looksLikeOtlpProfiles } from './otlp/recognise';
import { looksLikeProtobufProfile } from './protobuf/recognise';
import type { ProfileFormat } from './read';
import { looksLikeTraceEvents } from './trace-events';

/** The format of a profile by its beginning; null for something else. */
export function recogniseProfile(head: FileHead): ProfileFormat | null {
  if (looksLikeOtlpProfiles(head)) return 'otlp-profiles';
  if (looksLikeProtobufProfile(head.bytes)) return 'protobuf-profile';
  if (looksLikeJfrJson(head)) return 'jfr-json';
  if (looksLikeTraceEvents(head)) return 'trace-events';
  if (!head.isObject) return looksFolded(head.text) ? 'folded-stacks' : null;
  if (/^\{\s*"head"\s*:\s*\{/.test(head.text)) return 'v8-heap-profile';
  return /"(?:nodes|startTime|endTime|samples|timeDeltas)"\s*:/.test(head.text) ? 'v8-cpu-profile' : null;
}
