import { readMerges, type Merges } from '../db/merges';
import { reader } from '../db/reader';

export const loadMerges = async (): Promise<Merges> => readMerges(await reader());
