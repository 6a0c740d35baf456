/** Timelines in words and as an outline: all figures are the server's. */
import type { Schemas } from '../../api/client';

type OnSeat = Schemas['SeatTimelineOut'];

/** `1:02:05`, `2:05` */
export function lengthOf(seconds: number): string {
	const whole = Math.round(seconds);
	const [hours, minutes, rest] = [Math.floor(whole / 3600), Math.floor(whole / 60) % 60, whole % 60];
	const two = (part: number): string => String(part).padStart(2, '0');
	return hours ? `${hours}:${two(minutes)}:${two(rest)}` : `${minutes}:${two(rest)}`;
}

/** `25`, `23.976` */
export function rateOf(exact: string): string {
	const [above = 0, below = 1] = exact.split('/').map(Number);
	return String(Math.round((1000 * above) / below) / 1000);
}

/** The highest load of each stretch, and the device that has it. */
export function peaks(on: OnSeat): { load: number; device: string }[] {
	return on.loads.map((row) => {
		const load = Math.max(0, ...row);
		return { load, device: on.devices[row.indexOf(load)] ?? '' };
	});
}

/** `0:42 to 1:00: gpu0 31 %, cpu 12 %: real time` */
export function stretchWords(on: OnSeat, place: number): string {
	const row = on.loads[place] ?? [];
	const loads = on.devices
		.map((device, column) => ({ device, load: row[column] ?? 0 }))
		.filter(({ load }) => load > 0)
		.sort((a, b) => b.load - a.load)
		.map(({ device, load }) => `${device} ${Math.round(100 * load)} %`);
	const span = `${lengthOf(on.edges[place] ?? 0)} to ${lengthOf(on.edges[place + 1] ?? 0)}`;
	const [peak] = peaks({ ...on, loads: [row] });
	const plays =
		(peak?.load ?? 0) > 1
			? `${on.plays_at[place]} frames per second, limited by ${peak?.device}`
			: 'real time';
	return `${span}: ${loads.join(', ') || 'idle'}: ${plays}`;
}

/** The outline of the highest loads as a path, in a picture so wide and so high, where `most` reaches the top. */
export function outline(on: OnSeat, wide: number, high: number, most: number): string {
	const whole = on.edges.at(-1) ?? 1;
	const steps = peaks(on).map(({ load }, place) => {
		const y = high - (Math.min(load, most) / most) * high;
		return `V${y.toFixed(1)}H${(((on.edges[place + 1] ?? 0) / whole) * wide).toFixed(1)}`;
	});
	return `M0 ${high}${steps.join('')}V${high}Z`;
}
