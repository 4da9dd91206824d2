export interface ApiError {
  statusCode: number;
  message: string;
  errors?: { field: string; message: string }[];
  /** On a conflict: what stands in the database now. */
  current?: unknown;
}
