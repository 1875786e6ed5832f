/** What shall happen at a time: a number that says what, earliest first, equal times in the order in which they were asked for. */
export interface Events {
  times: number[];
  /** Tells equal times apart. */
  orders: number[];
  whats: number[];
  next: number;
}

export const noEvents = (): Events => ({ times: [], orders: [], whats: [], next: 0 });

export const copyEvents = ({ times, orders, whats, next }: Events): Events => ({
  times: times.slice(),
  orders: orders.slice(),
  whats: whats.slice(),
  next,
});

/** When the next one is due; never where there is none. */
export const nextTime = ({ times }: Events): number => times[0] ?? Number.POSITIVE_INFINITY;

function isBefore({ times, orders }: Events, a: number, b: number): boolean {
  const x = times[a] as number;
  const y = times[b] as number;
  return x < y || (x === y && (orders[a] as number) < (orders[b] as number));
}

function swap({ times, orders, whats }: Events, a: number, b: number): void {
  exchange(times, a, b);
  exchange(orders, a, b);
  exchange(whats, a, b);
}

function exchange(list: number[], a: number, b: number): void {
  const held = list[a] as number;
  list[a] = list[b] as number;
  list[b] = held;
}

export function addEvent(events: Events, time: number, what: number): void {
  let at = events.times.length;
  events.times.push(time);
  events.orders.push(events.next++);
  events.whats.push(what);
  while (at > 0) {
    const above = (at - 1) >> 1;
    if (!isBefore(events, at, above)) break;
    swap(events, at, above);
    at = above;
  }
}

/** Takes the next one out. */
export function takeEvent(events: Events): number {
  const what = events.whats[0] as number;
  const last = events.times.length - 1;
  swap(events, 0, last);
  events.times.pop();
  events.orders.pop();
  events.whats.pop();
  let at = 0;
  for (;;) {
    const left = at * 2 + 1;
    if (left >= last) break;
    const right = left + 1;
    const first = right < last && isBefore(events, right, left) ? right : left;
    if (!isBefore(events, first, at)) break;
    swap(events, first, at);
    at = first;
  }
  return what;
}
