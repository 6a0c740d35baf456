/** Geometry of a seat's volumes with stores in them, drawn to scale. */
import type { Schemas } from '../../api/client';

type Store = Schemas['StorePlaceOut'];
type PlacedVolume = Schemas['PlacementVolumeOut'];
export type Places = Record<string, string>;

export type DrawnVolume = {
	volume: PlacedVolume;
	/** Share of the height of the tallest volume, from `MIN_HEIGHT` to 1. */
	height: number;
	/** Whether the height is to scale: a network volume is never taller than the seat's own largest one. */
	toScale: boolean;
	stores: { store: Store; share: number; moved: boolean }[];
	/** Stores that are on this volume today and would leave it. */
	leaving: { store: Store; share: number }[];
	/** What else is used, and what stays free, as shares of the capacity. */
	rest: number;
	free: number;
	/** Bytes that do not fit. */
	over: number;
};

const MIN_HEIGHT = 0.25; // lower, and its name and a store could not be read

/** Where each store is drawn: where somebody put it, else where it is now. */
export const volumeOf = (store: Store, on: Places): string => on[store.name] ?? store.now ?? '';

/** The volumes of a seat with the stores on them, as shares of each volume's capacity. */
export function drawnVolumes(
	volumes: readonly PlacedVolume[],
	stores: readonly Store[],
	on: Places
): DrawnVolume[] {
	const own = volumes.filter(({ kind }) => kind !== 'network').map(({ capacity }) => capacity ?? 0);
	const tallest = Math.max(1, ...(own.length ? own : volumes.map(({ capacity }) => capacity ?? 0)));
	return volumes.map((volume) => {
		const capacity = Math.max(1, volume.capacity ?? 0);
		const shareOf = (store: Store): number => Math.min(1, store.size / capacity);
		const here = stores.filter((store) => volumeOf(store, on) === volume.id);
		const now = stores.filter((store) => store.now === volume.id);
		const used = capacity - Math.min(capacity, volume.free ?? capacity);
		const rest = Math.max(0, used - bytesOf(now));
		const over = Math.max(0, rest + bytesOf(here) - capacity);
		return {
			volume,
			height: Math.min(1, Math.max(MIN_HEIGHT, (volume.capacity ?? 0) / tallest)),
			toScale: capacity <= tallest && capacity / tallest >= MIN_HEIGHT,
			stores: here.map((store) => ({
				store,
				share: shareOf(store),
				moved: store.now !== volume.id
			})),
			leaving: now
				.filter((store) => volumeOf(store, on) !== volume.id)
				.map((store) => ({ store, share: shareOf(store) })),
			rest: rest / capacity,
			free: Math.max(0, capacity - rest - bytesOf(here)) / capacity,
			over: volume.capacity === null ? 0 : over
		};
	});
}

const bytesOf = (stores: readonly Store[]): number => stores.reduce((sum, { size }) => sum + size, 0);
