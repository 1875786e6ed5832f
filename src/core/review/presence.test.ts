import { colourOf, initialsOf, PERSON_COLOURS } from './presence';

test.each([
  ['mk', 'MK'],
  ['Maria Kranz', 'MK'],
  ['  jo  ', 'JO'],
  ['Ünal', 'ÜN'],
  ['x', 'X'],
  ['😀 b', '😀B'],
  ['', '?'],
  ['   ', '?'],
])('initials of "%s" are %s', (author, initials) => {
  expect(initialsOf(author)).toBe(initials);
});
test('a name has one colour, in whatever window; without one the window has', () => {
  expect(colourOf({ author: 'mk', client: 'a' })).toBe(colourOf({ author: 'mk', client: 'b' }));
  const colours = new Set(Array.from({ length: 50 }, (_, at) => colourOf({ author: '', client: `w${at}` })));
  expect(colours.size).toBeGreaterThan(4);
  for (const one of colours) expect(one).toBeLessThan(PERSON_COLOURS);
});
