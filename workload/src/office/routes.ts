import type { Database } from '../platform/database';
import { ask, Content, type Routes } from '../platform/http';
import type { Settings } from '../platform/settings';
import { officeAssets } from './assets';
import { berthPage, boardPage, vesselsPage } from './pages';

/** The page may make a profile of itself (W3C JS Self-Profiling, Document Policy). */
const PAGE = { 'document-policy': 'js-profiling' };
const html = (text: string): Content => new Content('text/html; charset=utf-8', text, PAGE);
const LISTED = 40;

class NoFile extends Error {
  readonly status = 404;
}

/** The screens of the harbour office, and what they ask for. @param peer gives an address of a service */
export function officeRoutes(
  settings: Settings,
  database: Database,
  peer: (service: string) => string
): Routes {
  const assets = officeAssets();
  return {
    'GET /office/board': () => Promise.resolve(html(boardPage(settings))),
    // The plan is worked out before anything is answered.
    'GET /office/berths/:id': async ({ path }) => {
      const plan = await ask('POST', `${peer('berths')}/calls/${Number(path.id)}/berth`);
      return html(berthPage(settings, path.id, plan));
    },
    'GET /office/vessels': async () => {
      const vessels = await database.all('SELECT imo, name FROM vessel ORDER BY imo LIMIT ?', LISTED);
      return html(vesselsPage(settings, vessels as { imo: number; name: string }[]));
    },
    'GET /office/assets/:file': ({ path }) => {
      const asset = assets.get(path.file);
      if (!asset) return Promise.reject(new NoFile('There is no such file.'));
      return Promise.resolve(new Content(asset.type, asset.body));
    },
    'GET /tides/window': ({ query }) =>
      ask('GET', `${peer('tides')}/tides/window?station=${Number(query.get('station'))}`),
    'GET /tides/windows': ({ query }) =>
      ask('GET', `${peer('tides')}/tides/windows?stations=${Number(query.get('stations'))}`)
  };
}
