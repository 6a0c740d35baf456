import type { Schemas } from '../../api/client';
import { CORRIDOR } from '../house/rooms';
import { storage } from '../words/sizes';

export type Volume = Schemas['VolumeRowOut'];
type Store = Schemas['StoreOnOut'];
export type VolumeStore = Schemas['StoreWithinOut'];

/** Ages in days for which some seat counts what nobody used, the shortest first. */
export function agesOf(stores: readonly VolumeStore[]): number[] {
	const days = new Set(stores.flatMap((store) => store.unused_for.map((share) => share.days)));
	return [...days].sort((a, b) => a - b);
}

/** `120 GB` that nobody used for so many days; `unknown` where the seat does not count that. */
export function unusedFor(store: VolumeStore, days: number): string {
	const share = store.unused_for.find((share) => share.days === days);
	return share ? storage(share.size) : 'unknown';
}

/** What fills volumes, in the order in which bars are cut; each has a tint of its own. */
export const PURPOSES = [
	'source_cache',
	'frame_cache',
	'proxies',
	'renders',
	'scratch',
	'backups',
	'exports'
] as const;

/** Kinds of stores whose files can tell by their paths what they belong to. */
export const TAUGHT = ['source_cache', 'frame_cache', 'proxies', 'renders', 'scratch', 'backups'] as const;

/** `source cache` */
export const purposeWords = (purpose: string): string =>
	purpose === 'temporary' ? 'temporary files' : purpose.replaceAll('_', ' ');

export type Cut = { name: string; purpose: string; share: number };

/** A bar's parts as shares of the capacity: each store, then what is used besides; what is left is free. */
export function cutsOf(volume: Volume): Cut[] {
	const whole = Math.max(1, volume.capacity);
	const used = Math.min(1, (volume.capacity - volume.free) / whole);
	const order = (store: Store): number => (PURPOSES as readonly string[]).indexOf(store.purpose) + 1 || 99;
	const stores = [...volume.stores].sort((a, b) => order(a) - order(b));
	const cuts: Cut[] = [];
	let left = used;
	for (const { name, purpose, size } of stores) {
		const share = Math.min(left, size / whole);
		left -= share;
		if (share > 0) cuts.push({ name, purpose, share });
	}
	if (left > 1e-9) cuts.push({ name: 'everything else', purpose: 'rest', share: left });
	return cuts;
}

export type Room = { name: string; volumes: Volume[] };

/** First those that fill, whatever their room, for something has to be done about them; then the rooms of the others,
 * in the order in which they came. */
export function roomsOfVolumes(volumes: readonly Volume[]): Room[] {
	const rooms: Record<string, Volume[]> = {};
	for (const volume of volumes) if (!volume.words) (rooms[volume.room || CORRIDOR] ??= []).push(volume);
	const others = Object.entries(rooms).map(([name, those]) => ({ name, volumes: those }));
	return [{ name: 'They fill', volumes: volumes.filter(({ words }) => words) }, ...others];
}

type Point = [day: number, bytes: number];

/** The corners of a line of daily sizes, a step where they change: days since the first, and bytes. */
export function cornersOf(sizes: readonly number[]): Point[] {
	const corners: Point[] = [];
	sizes.forEach((size, day) => {
		if (day > 0 && size !== sizes[day - 1]) corners.push([day, sizes[day - 1] as number]);
		if (day === 0 || size !== sizes[day - 1]) corners.push([day, size]);
	});
	if (sizes.length > 1) corners.push([sizes.length - 1, sizes.at(-1) as number]);
	return corners;
}
