import type { Frame } from '@tromix/core/profile/model';
import { viewLink } from '$lib/ui/shell/links';

/** Where a function of a process is looked at from inside; '' where it is none of JavaScript. @param process its service, '' where it is not known */
export const observeLink = (
  { name, file, line, column }: Pick<Frame, 'name' | 'file' | 'line' | 'column'>,
  process: { service: string; pid?: number }
): string =>
  line > 0 && column > 0 && /\.(?:[cm]?[jt]sx?)$/.test(file)
    ? viewLink(
        '/recorder/observe',
        {},
        {
          name,
          file,
          line: String(line),
          column: String(column),
          ...(process.service ? { process: process.service } : {}),
          ...(process.pid ? { pid: String(process.pid) } : {})
        }
      )
    : '';
