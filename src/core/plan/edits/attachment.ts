import { type Attachment, attachmentMeta } from '../model/attachments';
import { planRef } from '../model/schema-parts';
import { type EditKind, POSITION, refuse, shape, unsigned } from './kind';
import { addTo, takeFrom } from './listed';

export interface AttachmentAddEdit {
  kind: 'attachment.add';
  attachment: Attachment;
  at: number;
}

export interface AttachmentRemoveEdit extends Omit<AttachmentAddEdit, 'kind'> {
  kind: 'attachment.remove';
}

/** What is wrong with something attached by itself: too few nets or too many, or one of them twice. */
export function attachmentFault({ kind, nets }: Pick<Attachment, 'kind' | 'nets'>): string | undefined {
  const { title, poles, least = poles.length } = attachmentMeta(kind);
  if (new Set(nets).size < nets.length) return 'a net is at it twice';
  if (nets.length >= least && nets.length <= poles.length) return undefined;
  const many = least === poles.length ? String(least) : `${least} to ${poles.length}`;
  return `a ${title} has ${many} nets, not ${nets.length}`;
}

const whole = (kind: string) => shape(kind, { attachment: planRef('attachment'), at: POSITION });

export const attachmentAdd: EditKind<AttachmentAddEdit> = {
  signs: unsigned,
  apply(plan, { attachment, at }) {
    const fault = attachmentFault(attachment);
    if (fault) return refuse(`that cannot be attached: ${fault}`);
    if (!attachment.nets.every((id) => plan.nets.some((net) => net.id === id)))
      return refuse('a net that it is attached to is gone');
    return addTo(plan, 'attachments', attachment, at, 'that attachment');
  },
  invert: (edit) => ({ ...edit, kind: 'attachment.remove' }),
  describe: ({ attachment: { kind, nets } }, nameOf) =>
    `attach a ${attachmentMeta(kind).title} to ${nets.map(nameOf).join(', ')}`,
  schemas: whole('attachment.add'),
};

export const attachmentRemove: EditKind<AttachmentRemoveEdit> = {
  signs: unsigned,
  apply: (plan, { attachment }) => takeFrom(plan, 'attachments', attachment, 'that attachment'),
  invert: (edit) => ({ ...edit, kind: 'attachment.add' }),
  describe: ({ attachment: { kind, nets } }, nameOf) =>
    `take the ${attachmentMeta(kind).title} off ${nets.map(nameOf).join(', ')}`,
  schemas: whole('attachment.remove'),
};
