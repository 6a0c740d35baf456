/* eslint-disable svelte/prefer-svelte-reactivity -- each is told its own change alone: thousands look on */

import { flushSync } from 'svelte';
import type { Schemas } from '../api/client';

type Levels = Schemas['SeatOut']['levels'];

const AHEAD = '500px 0px'; // how far outside the window things are drawn already
const SPEND_MS = 4; // of each frame, to draw and lay out: painting comes on top
const PACE_MS = 150;

/** Drawing in small jobs, as many with each frame as there is time for. */
export class Frames {
	#jobs = new Map<unknown, () => void>();
	#frame = 0;

	/** A job takes the place of one with the same key that still waits. */
	add(key: unknown, job: () => void): void {
		this.#jobs.set(key, job);
		this.#frame ||= requestAnimationFrame(() => this.#work());
	}

	drop(key: unknown): void {
		this.#jobs.delete(key);
	}

	stop(): void {
		cancelAnimationFrame(this.#frame);
		this.#jobs.clear();
	}

	#work(): void {
		const begun = performance.now();
		for (const [key, job] of this.#jobs) {
			this.#jobs.delete(key);
			job();
			flushSync();
			document.body.getBoundingClientRect(); // laid out now, so that its time counts
			if (performance.now() - begun > SPEND_MS) break;
		}
		this.#frame = this.#jobs.size ? requestAnimationFrame(() => this.#work()) : 0;
	}
}

type Told<T> = (value: T) => void;

/** Tells parts of a long list whether they are in sight, or soon will be. */
export class Sight {
	#frames: Frames;
	#told = new WeakMap<Element, Told<boolean>>();
	#observer = new IntersectionObserver((entries) => entries.forEach((entry) => this.#seen(entry)), {
		rootMargin: AHEAD
	});

	constructor(frames: Frames) {
		this.#frames = frames;
	}

	/** An attachment for the element of a part. */
	watch(told: Told<boolean>): (element: Element) => () => void {
		return (element) => {
			this.#told.set(element, told);
			this.#observer.observe(element);
			return () => {
				this.#observer.unobserve(element);
				this.#frames.drop(element);
			};
		};
	}

	stop(): void {
		this.#observer.disconnect();
	}

	#seen({ target, isIntersecting }: IntersectionObserverEntry): void {
		this.#frames.add(target, () => this.#told.get(target)?.(isIntersecting));
	}
}

/** A value that changes with every frame, passed on at once when it is the first, and then at a pace that a server can answer. */
export class Paced<T> {
	#value: T;
	#latest: T;
	#timer: ReturnType<typeof setTimeout> | undefined;
	#ready = 0;

	constructor(first: T) {
		this.#value = $state.raw(first);
		this.#latest = first;
	}

	get value(): T {
		return this.#value;
	}

	tell(latest: T): void {
		this.#latest = latest;
		this.#timer ??= setTimeout(() => this.#pass(), this.#ready - performance.now());
	}

	stop(): void {
		clearTimeout(this.#timer);
	}

	#pass(): void {
		this.#timer = undefined;
		this.#ready = performance.now() + PACE_MS;
		this.#value = this.#latest;
	}
}

/** The levels of seats as they come in, told to whoever draws that seat. */
export class LevelsInSight {
	#known = new Map<string, Levels>();
	#told = new Map<string, Told<Levels>>();
	#frames: Frames;

	constructor(frames: Frames) {
		this.#frames = frames;
	}

	watch(seat: string, told: Told<Levels>): () => void {
		const known = this.#known.get(seat);
		if (known) told(known);
		this.#told.set(seat, told);
		return () => this.#told.delete(seat);
	}

	take(seats: readonly { name: string; levels: Levels }[]): void {
		for (const { name, levels } of seats) {
			if (JSON.stringify(this.#known.get(name)) === JSON.stringify(levels)) continue;
			this.#known.set(name, levels);
			this.#frames.add(name, () => this.#told.get(name)?.(levels));
		}
	}
}
