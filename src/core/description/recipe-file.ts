import type { DeviceDescription, Package } from './types';

/** What stands beside a part's tables: all that is not in them. Its shape is checked by JSON Schema before. */
export interface RecipeFile
  extends Pick<
    DeviceDescription,
    | 'supplies'
    | 'padClasses'
    | 'peripheralKinds'
    | 'peripherals'
    | 'forced'
    | 'interrupts'
    | 'unconfirmed'
    | 'notes'
    | 'recipe'
    | 'text'
  > {
  format: 'mavrek-recipe/3';
  device: Pick<DeviceDescription, 'id' | 'name' | 'maker' | 'summary' | 'source'>;
  packages: Pick<Package, 'id' | 'name' | 'shape' | 'notes' | 'removes' | 'highestMilliamps'>[];
}
