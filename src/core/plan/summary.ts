/** A plan as the list of plans shows it. Times are ISO 8601. */
export interface PlanSummary {
  id: string;
  name: string;
  revision: string;
  device: string;
  package: string;
  nets: number;
  placed: number;
  errors: number;
  warnings: number;
  updatedAt: string;
  deletedAt: string | null;
}
