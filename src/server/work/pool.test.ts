import { closePoolOfWork, work } from './pool';

/** Real worker threads. */
afterAll(closePoolOfWork);

test('work that takes too long is stopped, and others go on meanwhile', async () => {
  const stopped = (limitMs: number): Promise<string> =>
    work('spin', { milliseconds: 600_000, megabytes: 0 }, { limitMs }).then(
      () => 'ended',
      (error: Error) => error.message,
    );
  // One that would go on for longer than this test, and one that is stopped soon: neither keeps the short one waiting.
  const long = stopped(6_000);
  const short = work('readPlan', { name: 'x', text: '{' });
  expect(await Promise.race([long, short.then(({ ok }) => ok)])).toBe(false);
  expect(await stopped(500)).toBe('takes more than 0.5 seconds of computing; nothing was changed');
  expect(await long).toBe('takes more than 6 seconds of computing; nothing was changed');
  // Another worker has taken its place.
  expect(await work('spin', { milliseconds: 1, megabytes: 0 })).toBe(0);
});

test('work that takes too much memory is ended, and the process lives', async () => {
  await expect(work('spin', { milliseconds: 20_000, megabytes: 4000 })).rejects.toMatchObject({
    kind: 'too large',
    message: 'needs more than 1,024 megabytes of memory; nothing was changed',
  });
  expect(await work('spin', { milliseconds: 1, megabytes: 0 })).toBe(0);
});

test('what would wait too long is refused at once', async () => {
  const many = Array.from({ length: 60 }, () =>
    work('spin', { milliseconds: 30, megabytes: 0 }).then(
      () => 'done',
      (error: { kind?: string }) => error.kind,
    ),
  );
  const outcomes = await Promise.all(many);
  expect(outcomes.filter((one) => one === 'done').length).toBeGreaterThanOrEqual(32);
  expect(new Set(outcomes)).toEqual(new Set(['done', 'busy']));
});

test('a part that the worker does not have is fetched once, and kept', async () => {
  let fetched = 0;
  const options = {
    partText: async () => {
      fetched++;
      throw new Error('is gone');
    },
  };
  const input = { part: { key: 'nobody 0' }, plan: {} as never };
  await expect(work('counts', input, options)).rejects.toThrow('is gone');
  await expect(work('counts', input)).rejects.toThrow(/the part is missing/);
  expect(fetched).toBe(1);
});
