/* eslint-disable svelte/prefer-svelte-reactivity -- sets are replaced as a whole: ten thousand are one change */

/** What is chosen in a view: names of seats, or numbers of findings. */
export class Selection<T> {
	#chosen = $state.raw<ReadonlySet<T>>(new Set());

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
		const chosen = new Set(this.#chosen);
		if (!chosen.delete(item)) chosen.add(item);
		this.#chosen = chosen;
	}

	set(items: Iterable<T>): void {
		this.#chosen = new Set(items);
	}

	clear(): void {
		this.#chosen = new Set();
	}
}
