import { EvidenceError } from '../formats/evidence-error';
import { readArchive } from '../formats/har';
import { loadsFromHar } from './har';
import type { PageLoad } from './page-load';

/**
 * The page loads of an HTTP Archive (HAR 1.2).
 * @param content its bytes, UTF-8, not gzip
 * @param id 64 hexadecimal digits that are the same whenever the same archive is read: its loads are named by it
 * @returns each of the site by its host, and of no release: an archive tells neither
 * @throws EvidenceError `not-har`
 */
export function readHar(content: Uint8Array, id: string): PageLoad[] {
  const archive = readArchive(new TextDecoder().decode(content));
  if (!archive.ok) throw new EvidenceError('not-har', archive.message);
  const loads = loadsFromHar(archive.log, (page) => ({
    traceId: id.slice(0, 24) + page.toString(16).padStart(8, '0'),
    service: '',
    release: ''
  }));
  if (loads.length === 0)
    throw new EvidenceError(
      'not-har',
      'Expected an HTTP Archive with a page that was loaded, but it has no entry with a time. Save it again with content.'
    );
  return loads.map((load) => ({ ...load, service: siteOf(load.url) }));
}

const siteOf = (url: string): string => (URL.canParse(url) ? new URL(url).host : 'site');
