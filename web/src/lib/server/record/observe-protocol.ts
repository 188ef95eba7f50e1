import * as v from 'valibot';
import { Remote } from './observed-value';

// What is read of the Chrome DevTools Protocol, of its domains Debugger and Runtime.

/** As the protocol has it: lines and columns count from 0. */
export const Location = v.object({
  scriptId: v.string(),
  lineNumber: v.number(),
  columnNumber: v.optional(v.number(), 0)
});
export type Location = v.InferOutput<typeof Location>;
export const Paused = v.object({
  params: v.object({
    reason: v.string(),
    hitBreakpoints: v.optional(v.array(v.string()), []),
    data: v.optional(v.unknown()),
    callFrames: v.pipe(
      v.array(
        v.object({
          callFrameId: v.string(),
          functionName: v.string(),
          functionLocation: v.optional(Location),
          location: Location,
          scopeChain: v.array(v.object({ type: v.string(), object: Remote })),
          returnValue: v.optional(Remote)
        })
      ),
      v.minLength(1)
    )
  })
});
export type Pause = v.InferOutput<typeof Paused>['params'];
export const Script = v.object({ params: v.object({ scriptId: v.string(), url: v.string() }) });
export const Places = v.object({
  result: v.object({
    locations: v.array(v.object({ ...Location.entries, type: v.optional(v.string(), '') }))
  })
});
export const Broken = v.object({ result: v.object({ breakpointId: v.string() }) });
export const Properties = v.object({
  result: v.object({
    result: v.array(
      v.object({ name: v.string(), value: v.optional(Remote), enumerable: v.optional(v.boolean(), true) })
    )
  })
});

export const Internals = v.object({
  result: v.object({
    internalProperties: v.optional(v.array(v.object({ name: v.string(), value: v.optional(Remote) })), [])
  })
});
export const Source = v.object({ result: v.object({ scriptSource: v.string() }) });
