import { namesakes, planTitles } from './summary';

const plan = (id: string, name: string, revision = '') => ({ id, name, revision });

test('plans of one name and revision are told apart by letters of their ids, and no others are marked', () => {
  const plans = [
    plan('abcd12345678', 'Frost guard', 'C'),
    plan('wxyz12345678', ' frost GUARD', 'C'),
    plan('efgh12345678', 'Frost guard', 'D'),
    plan('ijkl12345678', 'Bench board'),
  ];
  expect([...planTitles(plans).values()]).toEqual([
    'Frost guard · rev C (abcd)',
    ' frost GUARD · rev C (wxyz)',
    'Frost guard · rev D',
    'Bench board',
  ]);
  expect([...namesakes(plans)]).toEqual(['abcd12345678', 'wxyz12345678']);
});
