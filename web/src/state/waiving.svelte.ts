import type { Schemas } from '../api/client';

export type Place = { seat: string; setting: string; title: string; app: string | null };

/** The findings that somebody is about to accept; the sheet for it is open while there are some. */
class Waiving {
	#places = $state.raw<Place[]>([]);

	get open(): boolean {
		return this.#places.length > 0;
	}

	get seats(): string[] {
		return [...new Set(this.#places.map((place) => place.seat))].sort();
	}

	/** Each setting of each application once. */
	get settings(): (Schemas['WaivedPlace'] & { title: string })[] {
		const each = new Map(this.#places.map((place) => [`${place.setting} ${place.app ?? ''}`, place]));
		return [...each.values()].map(({ setting, title, app }) => ({ setting, title, app }));
	}

	begin(places: Place[]): void {
		this.#places = places;
	}

	close(): void {
		this.#places = [];
	}
}

export const waiving = new Waiving();
