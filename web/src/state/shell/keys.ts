/** Keys of a view, by the name of the key: `{ c: correct, '/': find }`. */
export type Keys = Record<string, (event: KeyboardEvent) => void>;

function writing(target: EventTarget | null): boolean {
	return (
		target instanceof HTMLElement &&
		(target.isContentEditable || target.matches('input:not([type=checkbox]), textarea, select'))
	);
}

/** Listen for a view's keys; none is taken from a field or a dialog. Gives back how to stop. */
export function listen(keys: Keys): () => void {
	const press = (event: KeyboardEvent): void => {
		const act = keys[event.key];
		const busy = writing(event.target) || document.querySelector('[role=dialog]');
		if (!act || busy || event.metaKey || event.ctrlKey || event.altKey) return;
		event.preventDefault();
		act(event);
	};
	addEventListener('keydown', press);
	return () => removeEventListener('keydown', press);
}
