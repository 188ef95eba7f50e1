import { parentPort, workerData } from 'node:worker_threads';
import { startSender, type SenderData } from './sender-thread';

/** The sending thread of the command line; the server has one of its own around the same code. */
void startSender(workerData as SenderData, parentPort!);
