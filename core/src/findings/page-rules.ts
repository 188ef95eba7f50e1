import { findBy } from './define-rule';
import { latePicture } from './late-picture';
import { longTask } from './long-task';
import type { FoundInPage, PageContext, PageFinding } from './page-finding';
import { scriptBeforePaint } from './script-before-paint';
import { shifts } from './shifts';
import { slowFirstByte } from './slow-first-byte';
import { unusedBeforePaint } from './unused-before-paint';

/** Every rule about page loads, in the order they are listed. */
export const PAGE_RULES = [
  scriptBeforePaint,
  latePicture,
  longTask,
  slowFirstByte,
  shifts,
  unusedBeforePaint
] as const;
export type PageRule = (typeof PAGE_RULES)[number]['rule'];

/** Everything the rules find in a page load, what costs most first. */
export const findInPage = (context: PageContext): PageFinding<PageRule>[] =>
  findBy<PageRule, PageContext, FoundInPage>(PAGE_RULES, context).sort((a, b) => b.cost - a.cost);
