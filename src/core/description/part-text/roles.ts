/** Things of a part that have names. */
export type Role =
  | 'block'
  | 'register'
  | 'field'
  | 'setting'
  | 'value'
  | 'stage'
  | 'port'
  | 'supply'
  | 'class'
  | 'kind'
  | 'peripheral'
  | 'package'
  | 'note'
  | 'pad'
  | 'signal';
