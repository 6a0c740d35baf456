import { SvelteSet } from 'svelte/reactivity';

/** What is chosen in a view: names of seats, or numbers of findings. */
export class Selection<T> {
	#chosen = new SvelteSet<T>();

	get size(): number {
		return this.#chosen.size;
	}

	get all(): T[] {
		return [...this.#chosen];
	}

	has(item: T): boolean {
		return this.#chosen.has(item);
	}

	toggle(item: T): void {
		if (!this.#chosen.delete(item)) this.#chosen.add(item);
	}

	set(items: Iterable<T>): void {
		this.clear();
		for (const item of items) this.#chosen.add(item);
	}

	clear(): void {
		this.#chosen.clear();
	}
}
