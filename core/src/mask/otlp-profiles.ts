import { has, listOf, stringOf, type Loose } from '../formats/otlp/values';
import { decodeOtlpProfiles } from '../profile/otlp/document';
import { encodeOtlpProfiles } from '../profile/otlp/split';
import { isSecretName } from './names';
import { MASK, maskDoors } from './shapes';
import { maskUrls } from './url';

/** What tells processes apart; all else a resource says of itself is nobody's business here. */
const IDENTITY =
  /^(?:service\.(?:name|version|instance\.id)|host\.name|k8s\.pod\.name|container\.name|deployment\.version|process\.pid)$/;

/**
 * OTLP profiles as they are kept, in protobuf: values of URLs, credentials, and values of attributes whose name says that they are secret are masked; of a
 * resource what tells the process stays.
 * @returns the very same bytes where they would be written so. @throws EvidenceError as `decodeOtlpProfiles`.
 */
export function maskOtlpProfiles(content: Uint8Array): Uint8Array {
  const { profiles, dictionary } = decodeOtlpProfiles(content);
  const texts = Array.isArray(dictionary.stringTable) ? dictionary.stringTable.map(stringOf) : [];
  const attributeTable = listOf(dictionary.attributeTable).map((attribute) => ({
    ...attribute,
    value: masked(attribute.value, isSecretName(texts[Number(attribute.keyStrindex ?? 0)] ?? ''))
  }));
  const written = encodeOtlpProfiles({
    profiles: profiles.map((one) => ({ ...one, told: identityOf(one.told) })),
    dictionary: { ...dictionary, stringTable: texts.map(maskedText), attributeTable }
  });
  return isEqual(written, content) ? content : written;
}

const maskedText = (text: string): string => maskDoors(maskUrls(text));

function identityOf(resource: Loose | undefined): Loose {
  const attributes = listOf(resource?.attributes).filter(({ key }) => IDENTITY.test(stringOf(key)));
  return { attributes: attributes.map((one) => ({ ...one, value: masked(one.value, false) })) };
}

function masked(value: unknown, isSecret: boolean): unknown {
  if (isSecret) return { stringValue: MASK };
  if (typeof value !== 'object' || value === null || !has(value as Loose, 'stringValue')) return value;
  return { stringValue: maskedText(stringOf((value as Loose).stringValue)) };
}

const isEqual = (a: Uint8Array, b: Uint8Array): boolean =>
  a.length === b.length && a.every((byte, i) => byte === b[i]);
