import type { AttachmentKind } from '../../plan/model/attachments';
import { button, encoder, keypad, tippingContact } from './contacts';
import { coil, contactor, load } from './drivers';
import { led, ledBar, sevenSegments } from './lights';
import { capacitor, crystal, pullDown, pullUp, terminator } from './passive';
import { analogSource, busPartner, drivenLine, potentiometer } from './sources';
import type { Attached, Place } from './types';

/** How everything that can be attached behaves. */
export const BEHAVIOURS: Record<AttachmentKind, (place: Place) => Attached> = {
  button,
  'tipping-contact': tippingContact,
  led,
  'led-bar': ledBar,
  'seven-segments': sevenSegments,
  'pull-up': pullUp,
  'pull-down': pullDown,
  'driven-line': drivenLine,
  'bus-partner': busPartner,
  'analog-source': analogSource,
  potentiometer,
  contactor,
  coil,
  load,
  encoder,
  keypad,
  terminator,
  capacitor,
  crystal,
};
