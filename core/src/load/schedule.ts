import { isOpen, type LoadPlan } from './plan';

/**
 * When a user of a closed model starts, seconds after the run's start: users join one after another, evenly over the ramp-up.
 * Common practice: 10 users with a ramp-up of 10 s start one every second.
 */
export const userStart = (user: number, { users, rampUpSeconds }: LoadPlan): number =>
  (rampUpSeconds * user) / users;

/**
 * When a visit of an open model begins, seconds after the run's start. The rate rises evenly from nothing over the ramp-up R, so that n(t) = r t² / 2R
 * visits have begun by t; after it they begin 1 / r apart.
 * @param n counted from 0.
 */
export function arrivalAt(n: number, { rate, rampUpSeconds }: LoadPlan): number {
  const inRampUp = (rate * rampUpSeconds) / 2;
  if (n < inRampUp) return Math.sqrt((2 * rampUpSeconds * n) / rate);
  return rampUpSeconds + (n - inRampUp) / rate;
}

/** How many requests a plan sends, where loops say so: samples = users × loops × steps. Infinity where its length ends it. */
export function plannedRequests(plan: LoadPlan): number {
  if (plan.loops === 0 || plan.seconds > 0) return Infinity;
  const visits = isOpen(plan) ? plan.loops : plan.users * plan.loops;
  const each = plan.steps.map(({ together }) => together);
  if (plan.order === 'all') return visits * each.reduce((sum, together) => sum + together, 0);
  const even = each.every((together) => together === each[0]);
  return even ? visits * each[0] : Infinity;
}
