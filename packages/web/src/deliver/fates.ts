import type { DeliverableForecast } from '@pontrel/contract/crossing';
import type { Forecast, ForecastRow } from '@pontrel/core/content/features/forecast';

/** Records of a layer that a person left out: excluded, and not lost. */
export const excludedOf = (row: Pick<ForecastRow, 'effects'>): number =>
  row.effects.reduce((n, e) => n + (e.effect === 'left' && e.by === 'you' ? e.count : 0), 0);

/** Records of a layer that cannot be carried. */
export const lostOf = (row: Pick<ForecastRow, 'effects' | 'left'>): number => row.left - excludedOf(row);

/** Records left out of all layers of a deliverable. */
export const excludedIn = ({ rows }: Pick<Forecast, 'rows'>): number => rows.reduce((n, row) => n + excludedOf(row), 0);

/** A forecast of records. */
export type RecordsForecast = DeliverableForecast & { forecast: Forecast };

/** The forecasts that are of records. */
export const ofRecords = (forecasts: readonly DeliverableForecast[]): RecordsForecast[] =>
  forecasts.filter((f): f is RecordsForecast => f.forecast !== undefined);
