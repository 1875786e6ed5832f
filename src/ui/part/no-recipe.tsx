import Link from 'next/link';
import type { Device } from '@/core/device/device';

/** The part says nothing of its registers yet: what that means, and the next step. */
export function NoRecipe({ device }: { device: Device }) {
  return (
    <div className="max-w-xl px-6 py-6">
      <p>
        The {device.description.name} has no recipe yet: nets can be placed and checked on it, register values
        and code are not to be had.
      </p>
      <p className="mt-2 text-soft">
        With a register description (CMSIS-SVD) you say which registers are direction, pull, function and
        latch, and try each on a pad of your choice; a <span className="m">recipe.part</span> works as well.
      </p>
      <p className="mt-3">
        <Link
          className="link"
          prefetch={false}
          href={`/parts/import?part=${device.description.id}&step=registers`}
        >
          Attach a recipe
        </Link>
      </p>
    </div>
  );
}
