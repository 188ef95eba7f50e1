require 'json'
class BerthTaken < StandardError; end
class PlanFailed < StandardError; end
class Plan
  def reserve(berth, till) = raise(BerthTaken, "berth #{berth} is taken until #{till}")
  def swap(berth, till) = raise(BerthTaken, "berth #{berth} is taken until #{till}")
  def check(window) = raise(BerthTaken, "the window #{window} begins in the past")
  def release(berth, till) = raise(ArgumentError, "berth #{berth} is taken until #{till}")
  def look_up(quays, id) = quays[id].name
  def read_manifest(text) = JSON.parse(text)
  def plan_all(call)
    reserve(call, '06:10')
  rescue BerthTaken
    raise PlanFailed, "cannot plan call #{call}"
  end
  def plan_one(call)
    swap(call, '06:10')
  rescue BerthTaken
    raise PlanFailed, "cannot plan call #{call}"
  end
  def even(n) = odd(n - 1) + 1
  def odd(n) = even(n - 1) + 1
  def rank(calls) = calls.map { |call| raise ArgumentError, "a call has #{call} tonnes" if call < 0 }
  def via_board(work) = work.call
  def via_plan(work) = [0].map { work.call }
end
variant = ARGV[0].to_i
plan = Plan.new
{
  taken: ->(v) { plan.reserve(12 + v, "0#{v}:30") }, swapped: ->(v) { plan.swap(12 + v, "0#{v}:30") }, past: ->(v) { plan.check("2026-03-0#{v + 1}T06:00Z") },
  otherType: ->(v) { plan.release(12 + v, "0#{v}:30") }, missing: ->(v) { plan.look_up({}, "quay-#{v}") }, parsing: ->(v) { plan.read_manifest('{oops' * (v + 1)) },
  wrapped: ->(v) { plan.plan_all(3120 + v) }, wrappedOther: ->(v) { plan.plan_one(3120 + v) }, recursion: ->(v) { plan.even(v) }, lambda: ->(v) { plan.rank([-v - 1]) }
}.each do |label, work|
  begin
    variant.odd? ? plan.via_plan(-> { work.call(variant) }) : plan.via_board(-> { work.call(variant) })
  rescue SystemStackError, StandardError => error
    puts JSON.generate(['ruby', label, variant, error.class.to_s, error.message, error.full_message(highlight: false, order: :top)])
  end
end
