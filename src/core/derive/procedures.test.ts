import { testShapes } from '@/testing/hardware-shapes';
import { PROCEDURES } from '@/testing/procedure-shapes';

/**
 * What must be done around a write is described as steps, proven from reset and from every state, and run on the second machine. What
 * nobody can read cannot go back as it was: a register that is taken over by a read is proven from reset only.
 */
testShapes(PROCEDURES, new Set(['a sequence that a read ends']));
