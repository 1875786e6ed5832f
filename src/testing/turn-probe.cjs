// Loaded into a server before anything else (`node --require`): how long the longest turn of its event loop was, in processor time of
// the thread that answers everybody. Time on the clock would count what a busy machine gave to others. Asked at TURN_PROBE_PORT,
// which also begins anew.
const { readFileSync } = require('node:fs');
const { createServer } = require('node:http');
const { isMainThread } = require('node:worker_threads');

if (isMainThread && process.env.TURN_PROBE_PORT) {
  const spent = () =>
    Number(readFileSync(`/proc/self/task/${process.pid}/schedstat`, 'utf8').split(' ')[0]) / 1e6;
  let before = spent();
  let longest = 0;
  setInterval(() => {
    const now = spent();
    longest = Math.max(longest, now - before);
    before = now;
  }, 1).unref();
  createServer((_request, response) => {
    // The turn in which it is asked is over only after the next tick of the interval.
    setTimeout(() => {
      response.end(String(longest));
      longest = 0;
    }, 5);
  })
    .listen(Number(process.env.TURN_PROBE_PORT), '127.0.0.1')
    .unref();
}
