import { parentPort, workerData } from 'node:worker_threads';
import { startSender, type SenderData } from '@tromix/load/sender-thread';

/** Sends one run, and does nothing else. */
void startSender(workerData as SenderData, parentPort!);
