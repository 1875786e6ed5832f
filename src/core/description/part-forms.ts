/** What a part goes out as: by which word it is asked for, and what people call it. */
export const REGISTER_FORMS = [
  { id: 'svd', title: 'CMSIS-SVD', ending: '.svd', type: 'application/xml; charset=utf-8' },
  { id: 'systemrdl', title: 'SystemRDL', ending: '.rdl', type: 'text/plain; charset=utf-8' },
  { id: 'ipxact', title: 'IP-XACT', ending: '.ipxact.xml', type: 'application/xml; charset=utf-8' },
] as const;
export type RegisterForm = (typeof REGISTER_FORMS)[number]['id'];

export const PART_FORMS = [
  'text',
  'json',
  'tables',
  ...REGISTER_FORMS.map(({ id }) => id),
  'corrections',
] as const;
export type PartForm = 'text' | 'json' | 'tables' | RegisterForm | 'corrections';
