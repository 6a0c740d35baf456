/** Where we are: the address decides the view, so that every view has a link of its own. */
class Route {
	#path = $state(location.pathname);
	#search = $state(location.search);

	readonly query = $derived(new URLSearchParams(this.#search));
	readonly parts = $derived(this.#path.split('/').filter(Boolean).map(decodeURIComponent));

	constructor() {
		addEventListener('popstate', () => this.#read());
	}

	get path(): string {
		return this.#path;
	}

	go(address: string): void {
		history.pushState(null, '', address);
		this.#read();
		scrollTo(0, 0);
	}

	/** Change one filter in the address without adding to the history. */
	filter(name: string, value: string): void {
		const query = new URLSearchParams(this.#search);
		if (value) query.set(name, value);
		else query.delete(name);
		const text = query.toString();
		history.replaceState(null, '', text ? `${this.#path}?${text}` : this.#path);
		this.#read();
	}

	/** Follow links of ours without loading the page anew. */
	follow = (event: MouseEvent): void => {
		const link = (event.target as Element | null)?.closest('a');
		const plain =
			!event.defaultPrevented && event.button === 0 && !event.metaKey && !event.ctrlKey && !event.shiftKey;
		if (!link || !plain || link.origin !== location.origin || link.target || link.hasAttribute('download'))
			return;
		if (link.hash && link.pathname === location.pathname) return;
		event.preventDefault();
		this.go(link.pathname + link.search);
	};

	#read(): void {
		this.#path = location.pathname;
		this.#search = location.search;
	}
}

export const route = new Route();
