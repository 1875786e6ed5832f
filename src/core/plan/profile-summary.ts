/** A board profile as lists show it. */
export interface ProfileSummary {
  id: string;
  name: string;
  device: string;
  package: string;
  nets: number;
}
