import type { EvidenceKind } from '@tromix/core/evidence/kinds';
import { crashOnServer } from './crash';
import { heapOnServer } from './heap';
import type { KindOnServer } from './kind';
import { loadOnServer } from './load';
import { profileOnServer } from './profile';
import { statementsOnServer } from './statements';
import { threadsOnServer } from './threads';

export const KINDS_ON_SERVER: { [K in EvidenceKind]: KindOnServer<K> } = {
  crash: crashOnServer,
  profile: profileOnServer,
  threads: threadsOnServer,
  heap: heapOnServer,
  load: loadOnServer,
  statements: statementsOnServer
};
