import { formatOf, readFormat, wantedRate } from './format';

test.each([
  ['8N1', { format: '8N1' }],
  ['115200 8E1', { format: '8E1', rateHertz: 115200 }],
  ['9600-7-O-2', { format: '7O2', rateHertz: 9600 }],
  ['19200 baud 8 none 1.5', { format: '8N1.5', rateHertz: 19200 }],
  ['8-even-1', { format: '8E1' }],
  ['mode 3', { format: 'mode 3 msb' }],
  ['SPI mode 1, LSB first', { format: 'mode 1 lsb' }],
  ['fast', { format: 'fast' }],
  ['fast+', { format: 'fast-plus' }],
  ['Fast mode plus', { format: 'fast-plus' }],
  ['400k', { format: 'fast' }],
  ['Standard mode', { format: 'standard' }],
])('%s is read', (text, expected) => {
  expect(readFormat(text)).toEqual(expected);
  expect(formatOf(expected.format)).toBeDefined();
  // What is shown is read as the same again.
  expect(readFormat(expected.format)?.format).toBe(expected.format);
});

test.each(['', '4N1', '8X1', '8N3', 'mode 4', 'slow', 'constructor', '__proto__', '8N1 8N1'])(
  '%s is none',
  (text) => {
    expect(readFormat(text)).toBeUndefined();
  },
);

test('a speed class is a rate, unless another is asked for', () => {
  expect(wantedRate({ format: 'fast' })).toBe(400_000);
  expect(wantedRate({ format: 'fast', rateHertz: 250_000 })).toBe(250_000);
  expect(wantedRate({ format: '8N1' })).toBeUndefined();
});
