import { berthsRoutes } from './berths/routes';
import { reserveRoutes } from './failures/berths';
import { agentRoutes } from './failures/gateway';
import { releaseRoutes } from './failures/manifests';
import { assignRoutes } from './failures/pilots';
import { gaugeRoutes } from './failures/tides';
import { gatewayRoutes } from './gateway/routes';
import { manifestsRoutes } from './manifests/routes';
import { pilotsRoutes } from './pilots/routes';
import type { Database } from './platform/database';
import type { Routes } from './platform/http';
import type { Settings } from './platform/settings';
import { tidesRoutes } from './tides/routes';

/** The routes of the service this process is. */
export async function routesOf(settings: Settings, database: Database): Promise<Routes> {
  switch (settings.service) {
    case 'gateway':
      return { ...gatewayRoutes(settings, database), ...agentRoutes(settings) };
    case 'berths':
      return { ...berthsRoutes(settings, database), ...reserveRoutes(settings) };
    case 'tides':
      return { ...tidesRoutes(settings), ...gaugeRoutes(settings) };
    case 'manifests':
      return { ...manifestsRoutes(settings, database), ...releaseRoutes(settings) };
    case 'pilots':
      return { ...pilotsRoutes(settings, database), ...assignRoutes(settings) };
  }
}
