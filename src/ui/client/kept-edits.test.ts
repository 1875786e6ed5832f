import type { Edit } from '@/core/plan/edits/edits';
import { printKept, readKept } from './kept-edits';

const edit: Edit = {
  kind: 'net.set',
  id: 'n',
  field: 'placement',
  from: null,
  to: { pad: 'B7', locked: true },
};

test('what is kept is read back', () => {
  expect(readKept(printKept([{ editId: 'a', edit }]))).toEqual([{ editId: 'a', edit }]);
});

test('what an earlier version kept is sent in today’s words', () => {
  const old = { kind: 'net.set', id: 'n', field: 'placement', from: null, to: { pad: 'B7', held: true } };
  expect(readKept(JSON.stringify([{ editId: 'a', edit: old }]))).toEqual([{ editId: 'a', edit }]);
});

test.each([null, '', '{', '7', '{"a":1}', '[1, null, {"edit": 1}]'])('nothing is made of %j', (text) => {
  expect(readKept(text)).toEqual([]);
});
