type Name = 'paper' | 'night';

const KEPT = 'normant.theme';

function first(): Name {
	const kept = localStorage.getItem(KEPT);
	if (kept === 'paper' || kept === 'night') return kept;
	return matchMedia('(prefers-color-scheme: dark)').matches ? 'night' : 'paper';
}

/** Paper for a bright office, night for a dim suite. */
class Theme {
	#name = $state<Name>(first());

	constructor() {
		this.#show();
	}

	get name(): Name {
		return this.#name;
	}

	turn(): void {
		this.#name = this.#name === 'paper' ? 'night' : 'paper';
		localStorage.setItem(KEPT, this.#name);
		this.#show();
	}

	#show(): void {
		document.documentElement.dataset['theme'] = this.#name;
	}
}

export const theme = new Theme();
