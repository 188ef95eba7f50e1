// `npm start`: serves with the data folder as it is (empty at first).
import path from 'node:path';
import { ensureBuild, ensurePackages, ROOT } from './prepare.mjs';
import { startServer, stopWith } from './serve.mjs';

ensurePackages();
ensureBuild();
const server = await startServer({ TROMIX_DATA: process.env.TROMIX_DATA ?? path.join(ROOT, 'data/live') });
stopWith([server]);
