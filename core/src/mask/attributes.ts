import { hash53 } from '../calls/hash';
import type { Attributes, AttributeValue } from '../trace/span';
import { maskJson } from './json';
import { secrecyOf, type Secrecy } from './names';
import { isEmail, MASK } from './shapes';
import { maskStack, maskText, type Thoroughness } from './text';
import { maskQuery, maskUrl } from './url';

export interface MaskPolicy {
  /** Keys hashes that stand for values which must stay different from each other. */
  hashKey: number;
  /** Literals of statements and values of URLs stay, by the owner's wish; secrets go all the same. */
  keepLiterals: boolean;
}

/** What is done with the value of an attribute, by its name. */
type Treatment =
  'drop' | 'statement' | 'url' | 'query' | 'body' | 'graphql' | 'arguments' | 'stack' | Thoroughness;

/** Statement texts and their parameters: the call's fingerprint stands for them. */
const STATEMENT =
  /^(?:db\.(?:query\.text|statement|query\.parameter\..*|operation\.parameter\..*)|tromix\.db\.parameters\.hash)$/;
/** Who asks and where: dropped with the statement, whatever is wished. */
const CONNECTION =
  /^(?:db\.(?:user|connection_string)|process\.environment_variable\..*|process\.env(?:ironment)?(?:\..*)?)$/;
const URL_NAME =
  /^(?:url\.(?:full|original)|http\.(?:url|target)|.*\.(?:url|uri|endpoint|referr?er|location)|http\.(?:request|response)\.header\.(?:referer|location|origin|x-original-url|x-forwarded-uri))$/i;
const BODY =
  /^(?:.*\.)?(?:body|payload|body\.(?:content|text|raw)|request_body|response_body|post_data|form_data|variables|arguments|message\.content)$/i;
const ARGUMENTS = /^process\.command(?:_line|_args)?$/;
/** Texts that programs write for people. */
const MESSAGE =
  /(?:^|\.)(?:message|description|reason|detail|details|error|text|log|status_message|status_description|output|stderr|stdout|title|cause)$/i;
/** What tells services, hosts, releases and places of the program apart. */
const NAME =
  /^(?:service|host|os|k8s|container|cloud|deployment|telemetry|code|vcs|device|faas|thread|process\.(?:runtime|executable|pid|owner)|db\.(?:system|system\.name|namespace|name|collection\.name|operation|operation\.name|sql\.table)|http\.(?:route|method|request\.method|status_code|response\.status_code|scheme|flavor)|rpc|messaging\.(?:system|destination|operation|consumer)|server|client|net|network|url\.(?:scheme|path|template)|exception\.type|error\.type|otel|user_agent|tromix\.page)(?:\.|$)/;

/** Names repeat in every span: each is judged once. Bounded, since names come from outside. */
const judged = new Map<string, { treatment: Treatment; secrecy: Secrecy }>();
const MAX_JUDGED = 5000;

function judge(name: string): { treatment: Treatment; secrecy: Secrecy } {
  let verdict = judged.get(name);
  if (!verdict) {
    verdict = { treatment: treatmentOf(name), secrecy: secrecyOf(name) };
    if (judged.size >= MAX_JUDGED) judged.clear();
    judged.set(name, verdict);
  }
  return verdict;
}

function treatmentOf(name: string): Treatment {
  if (CONNECTION.test(name)) return 'drop';
  if (STATEMENT.test(name)) return 'statement';
  if (name === 'url.query') return 'query';
  if (name === 'url.path') return 'url';
  if (name === 'graphql.document' || name === 'graphql.source') return 'graphql';
  if (URL_NAME.test(name)) return 'url';
  if (BODY.test(name)) return 'body';
  if (ARGUMENTS.test(name)) return 'arguments';
  if (/stack_?trace$/i.test(name)) return 'stack';
  if (NAME.test(name)) return 'name';
  return MESSAGE.test(name) ? 'message' : 'value';
}

/** Takes secrets, statements, values of URLs and of bodies out of attributes, in place, nested lists and maps included. */
export function maskAttributes(attributes: Attributes, policy: MaskPolicy): void {
  for (const [name, value] of attributes) {
    const masked = maskValue(name, value, policy);
    if (masked === undefined) attributes.delete(name);
    else if (masked !== value) attributes.set(name, masked);
  }
}

/** @returns undefined for what is left out. */
function maskValue(name: string, value: AttributeValue, policy: MaskPolicy): AttributeValue | undefined {
  const { treatment, secrecy } = judge(name);
  if (secrecy === 'always' || treatment === 'drop') return undefined;
  if (treatment === 'statement') return policy.keepLiterals ? value : undefined;
  if (typeof value === 'string')
    return secrecy === 'texts' ? undefined : maskString(value, treatment, policy);
  if (!Array.isArray(value)) return treatment === 'body' ? MASK : value;
  if (secrecy === 'texts') return undefined;
  return maskList(value, name, treatment, policy);
}

/** A list, or a map as a list of [name, value]: a pair's own name decides over its value. */
function maskList(
  list: readonly AttributeValue[],
  name: string,
  treatment: Treatment,
  policy: MaskPolicy
): AttributeValue[] {
  if (treatment === 'arguments') return maskArguments(list);
  const masked: AttributeValue[] = [];
  for (const item of list) {
    if (Array.isArray(item) && item.length === 2 && typeof item[0] === 'string') {
      const [key, inner] = item;
      // Below a body everything is of the body.
      const value = treatment === 'body' ? maskValue(name, inner, policy) : maskValue(key, inner, policy);
      if (value !== undefined && secrecyOf(key) === 'no') masked.push([maskText(key, 'value'), value]);
    } else if (Array.isArray(item)) masked.push(maskList(item, name, treatment, policy));
    else if (typeof item === 'string') masked.push(maskString(item, treatment, policy) ?? MASK);
    else masked.push(treatment === 'body' ? MASK : item);
  }
  return masked;
}

/** Longest values that are looked through whole: see `ValueLimits`. */
function maskString(text: string, treatment: Treatment, { keepLiterals, hashKey }: MaskPolicy): string {
  switch (treatment) {
    case 'url':
      return keepLiterals ? maskText(text, 'name') : maskUrl(text);
    case 'query':
      return keepLiterals ? maskText(text, 'name') : maskQuery(text);
    case 'body':
      return keepLiterals ? maskText(text, 'value') : maskBody(text);
    case 'graphql':
      return keepLiterals ? text : maskGraphql(text);
    case 'arguments':
      return String(maskArguments(text.split(' ')).join(' '));
    case 'stack':
      return maskStack(text);
    case 'value':
      // People stay apart from each other without being named.
      return isEmail(text)
        ? `(address ${hash53(text.toLowerCase(), hashKey).toString(36)})`
        : maskText(text, 'value');
    case 'message':
    case 'name':
      return maskText(text, treatment);
    case 'drop':
    case 'statement':
      return MASK;
  }
}

/** What was sent or answered: JSON by its keys, a form by its names, of anything else the length. */
function maskBody(text: string): string {
  const json = maskJson(text);
  if (json !== null) return json;
  if (/^[\w.[\]%-]+=[^&\s]*(?:&[\w.[\]%-]+=[^&\s]*)*$/.test(text)) return maskQuery(text);
  return `(${text.length} characters)`;
}

/** A GraphQL document (GraphQL specification, October 2021, 2.9) without its strings and numbers. Its comments go too. */
export const maskGraphql = (document: string): string =>
  document
    .replace(/"""[\s\S]*?(?:"""|$)|"(?:[^"\\\n]|\\.)*(?:"|$)/g, MASK)
    .replace(/#[^\n]*/g, '')
    .replace(/(?<![\w$])-?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?(?!\w)/g, MASK);

/** A command line: what follows a secret option goes, and what is secret by its name or shape. */
function maskArguments(list: readonly AttributeValue[]): AttributeValue[] {
  let secretFollows = false;
  return list.map((item) => {
    if (typeof item !== 'string') return item;
    const follows = secretFollows;
    secretFollows = /^--?[A-Za-z][\w.-]*$/.test(item) && secrecyOf(item) !== 'no';
    if (follows && !item.startsWith('-')) return MASK;
    // `-pSECRET` of database clients (common practice).
    if (/^-p\S{3,}$/.test(item) && !/^-p(?:ath|id|ort|rof|lugin|arallel)/.test(item)) return `-p${MASK}`;
    return maskText(item, 'value');
  });
}
