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
  const conflict = { editId: 'b', edit, words: 'place X on B7', why: 'it was changed meanwhile' };
  expect(readKept(printKept([{ editId: 'a', edit }], [conflict]))).toEqual({
    pending: [{ editId: 'a', edit }],
    met: [conflict],
  });
});

test('what an earlier version kept is sent in today’s words', () => {
  const old = { kind: 'net.set', id: 'n', field: 'placement', from: null, to: { pad: 'B7', held: true } };
  expect(readKept(JSON.stringify([{ editId: 'a', edit: old }]))).toEqual({
    pending: [{ editId: 'a', edit }],
    met: [],
  });
});

test.each([null, '', '{', '7', '{"a":1}', '[1, null, {"edit": 1}]'])('nothing is made of %j', (text) => {
  expect(readKept(text)).toEqual({ pending: [], met: [] });
});
