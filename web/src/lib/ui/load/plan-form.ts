import type { LoadPlan, LoadPlanInput } from '@tromix/core/load/plan';

type StepInput = LoadPlanInput['steps'][number];

/** A step as the form holds it: headers and statuses as the text that is typed. */
export interface StepForm {
  method: string;
  url: string;
  headers: string;
  body: string;
  expect: string;
  weight: number;
  together: number;
}

/** A plan as the form holds it. */
export interface PlanForm {
  name: string;
  steps: StepForm[];
  model: 'users' | 'rate';
  users: number;
  rate: number;
  rampUpSeconds: number;
  until: 'loops' | 'seconds';
  loops: number;
  seconds: number;
  pauseSeconds: number;
  order: 'all' | 'one';
  timeoutSeconds: number;
  followRedirects: boolean;
  giveUpAfter: number;
}

export const emptyStep = (): StepForm => ({
  method: 'GET',
  url: '',
  headers: '',
  body: '',
  expect: '',
  weight: 1,
  together: 1
});

export const stepForm = ({ method, url, headers, body, expect, weight, together }: StepInput): StepForm => ({
  method: method ?? 'GET',
  url,
  headers: (headers ?? []).map(([name, value]) => `${name}: ${value}`).join('\n'),
  body: body ?? '',
  expect: (expect ?? []).join(', '),
  weight: weight ?? 1,
  together: together ?? 1
});

/** The form of some steps, everything else as it is by default. */
export const planForm = (steps: readonly StepInput[] = []): PlanForm => ({
  name: '',
  steps: steps.length > 0 ? steps.map(stepForm) : [emptyStep()],
  model: 'users',
  users: 10,
  rate: 20,
  rampUpSeconds: 10,
  until: 'loops',
  loops: 10,
  seconds: 60,
  pauseSeconds: 0,
  order: 'all',
  timeoutSeconds: 30,
  followRedirects: true,
  giveUpAfter: 100
});

/** The form of a plan that was made before. */
export const formOfPlan = (plan: LoadPlan): PlanForm => ({
  ...planForm(plan.steps),
  name: plan.name,
  model: plan.rate > 0 ? 'rate' : 'users',
  users: plan.users,
  ...(plan.rate > 0 ? { rate: plan.rate } : {}),
  rampUpSeconds: plan.rampUpSeconds,
  until: plan.loops > 0 ? 'loops' : 'seconds',
  ...(plan.loops > 0 ? { loops: plan.loops } : { seconds: plan.seconds }),
  pauseSeconds: plan.pauseSeconds,
  order: plan.order,
  timeoutSeconds: plan.timeoutSeconds,
  followRedirects: plan.followRedirects,
  giveUpAfter: plan.giveUpAfter
});

/** The plan of a form; what is wrong with it is worded by the server, which reads it. */
export function planOf(form: PlanForm): LoadPlanInput {
  const open = form.model === 'rate';
  return {
    name: form.name.trim(),
    steps: form.steps.map(({ method, url, headers, body, expect, weight, together }) => ({
      method: method.trim().toUpperCase(),
      url: withScheme(url.trim()),
      headers: headersOf(headers),
      body,
      expect: expect
        .split(/[\s,]+/)
        .filter(Boolean)
        .map(Number),
      weight,
      together
    })),
    users: open ? 1 : form.users,
    rate: open ? form.rate : 0,
    rampUpSeconds: form.rampUpSeconds,
    loops: form.until === 'loops' ? form.loops : 0,
    seconds: form.until === 'seconds' ? form.seconds : 0,
    pauseSeconds: open ? 0 : form.pauseSeconds,
    order: form.order,
    timeoutSeconds: form.timeoutSeconds,
    followRedirects: form.followRedirects,
    giveUpAfter: form.giveUpAfter
  };
}

/** `127.0.0.1:3000/board` is meant as HTTP. */
const withScheme = (url: string): string =>
  /^[a-z][a-z0-9+.-]*:\/\//i.test(url) || url === '' ? url : `http://${url}`;

/** Lines `name: value`; a line without a colon is a name without a value, which the server refuses. */
const headersOf = (text: string): [string, string][] =>
  text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
    .map((line) => {
      const at = line.indexOf(':');
      return at < 0 ? [line, ''] : [line.slice(0, at).trim(), line.slice(at + 1).trim()];
    });
