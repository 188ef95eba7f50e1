import { berthsRoutes } from './berths/routes';
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
      return gatewayRoutes(settings, database);
    case 'berths':
      return berthsRoutes(settings, database);
    case 'tides':
      return tidesRoutes(settings);
    case 'manifests':
      return manifestsRoutes(settings, database);
    case 'pilots':
      return pilotsRoutes(settings, database);
  }
}
