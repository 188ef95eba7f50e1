import type { Tool } from './tool';
import { readCase } from './tools/cases';
import { compareTool } from './tools/compare';
import { listEndpoints } from './tools/endpoints';
import { listEvidence, readHeapTool, readProfileTool, readThreadsTool } from './tools/evidence';
import { listFindings } from './tools/findings';
import { listRequests, readRequest } from './tools/requests';
import { readSource } from './tools/source';

/** Everything an assistant may ask, in the order it is listed. */
export const TOOLS: readonly Tool[] = [
  listEndpoints,
  listFindings,
  listRequests,
  readRequest,
  compareTool,
  listEvidence,
  readProfileTool,
  readThreadsTool,
  readHeapTool,
  readSource,
  readCase
];
