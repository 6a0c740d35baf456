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

/** Volumes that are full or fill up, in any room: these need a decision. */
export const fillingVolumes = (volumes: readonly Volume[]): Volume[] => volumes.filter(({ words }) => words);

/** The other volumes by room, in the order of the list. */
export function roomsOfVolumes(volumes: readonly Volume[]): Room[] {
	const rooms: Record<string, Volume[]> = {};
	for (const volume of volumes) if (!volume.words) (rooms[volume.room || CORRIDOR] ??= []).push(volume);
	return Object.entries(rooms).map(([name, those]) => ({ name, volumes: those }));
}

export type YearLine = { line: string; area: string; wedge: string; today: number };

const MIN_WEEKS = 8;
const MAX_WEEKS = 52;
const AHEAD = 0.2; // of the weeks shown: the room of the forecast on the right
const WEEK_MS = 7 * 86_400_000;

/** How many weeks the lines of these volumes show: the longest record among them, from 8 to 52. */
export const weeksOf = (volumes: readonly Volume[]): number =>
	Math.min(MAX_WEEKS, Math.max(MIN_WEEKS, ...volumes.map(({ used_weekly }) => used_weekly.length - 1)));

/** The SVG paths of a volume's last weeks: its weekly use, and a wedge up to the days on which it may be full. */
export function yearLine(
	volume: Pick<Volume, 'capacity' | 'used_weekly' | 'first' | 'last'>,
	span: number,
	wide: number,
	high: number,
	now = Date.now()
): YearLine {
	const capacity = Math.max(1, volume.capacity);
	const weeks = volume.used_weekly.slice(-span - 1);
	const x = (week: number): number => rounded((wide * week) / (span * (1 + AHEAD)));
	const y = (bytes: number): number => rounded(high * (1 - Math.min(1, bytes / capacity)));
	const start = span - weeks.length + 1;
	const points = weeks.map((bytes, place) => `${x(start + place)} ${y(bytes)}`);
	const line = points.length ? `M${points.join('L')}` : '';
	const used = weeks.at(-1) ?? 0;
	const ahead = (moment: string): number => span + Math.max(0, (Date.parse(moment) - now) / WEEK_MS);
	const last = volume.last ? `${x(ahead(volume.last))} 0` : `${x(span * (1 + 4 * AHEAD))} ${y(used)}`;
	return {
		line,
		area: line && `${line}L${x(span)} ${high}L${x(start)} ${high}Z`,
		wedge: volume.first ? `M${x(span)} ${y(used)}L${x(ahead(volume.first))} 0L${last}Z` : '',
		today: x(span)
	};
}

const rounded = (value: number): number => Math.round(value * 10) / 10;

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
