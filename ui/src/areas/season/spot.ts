/** Spot is one class of one week of a season. */
export type Spot = { week: number; class: string };

/** Carried is what a plan teaches somewhere, picked up to be put elsewhere. */
export type Carried = { unit: string; name: string; kind: string; from?: Spot; lead?: string };
