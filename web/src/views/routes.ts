/** Which view an address shows, and for whom: one line for each. The first that fits is shown. */
import type { Component } from 'svelte';
import Later from '../parts/ui/Later.svelte';
import Drift from './house/Drift.svelte';
import Floor from './house/Floor.svelte';
import Ledger from './house/Ledger.svelte';
import Nowhere from './house/Nowhere.svelte';
import Round from './house/Round.svelte';
import Waivers from './house/Waivers.svelte';
import Clips from './measure/Clips.svelte';
import Measure from './measure/Measure.svelte';
import Memory from './measure/Memory.svelte';
import NewTrial from './measure/NewTrial.svelte';
import Routes from './measure/Routes.svelte';
import RunSheet from './measure/RunSheet.svelte';
import Timeline from './measure/Timeline.svelte';
import Timelines from './measure/Timelines.svelte';
import Trial from './measure/Trial.svelte';
import Account from './people/Account.svelte';
import Notices from './people/Notices.svelte';
import People from './people/People.svelte';
import Errand from './rollout/Errand.svelte';
import Errands from './rollout/Errands.svelte';
import Rollout from './rollout/Rollout.svelte';
import Rollouts from './rollout/Rollouts.svelte';
import Compare from './seat/Compare.svelte';
import MySeat from './seat/MySeat.svelte';
import Seat from './seat/Seat.svelte';
import Care from './stores/Care.svelte';
import Clearing from './stores/Clearing.svelte';
import Clearings from './stores/Clearings.svelte';
import Deliveries from './stores/Deliveries.svelte';
import Placement from './stores/Placement.svelte';
import Project from './stores/Project.svelte';
import Projects from './stores/Projects.svelte';
import Stores from './stores/Stores.svelte';
import Templates from './standard/Templates.svelte';

/** Who looks: whether they see the whole house, manage people, and which seat is theirs. */
export type Viewer = { house: boolean; people: boolean; seat: string };

type Given = Record<string, unknown>;
/** `key`: another one begins the view anew. */
type Shown = { view: Component<Given>; given: Given; key: string };
type Line = {
	path: string[];
	may: (viewer: Viewer) => boolean;
	show: (part: string, viewer: Viewer) => Shown;
};

const all = (): boolean => true;

/** A line of the table; of its path `:name` is any word and `:number` a number, which the view is given. */
function at<Props extends Given>(
	path: string,
	view: Component<Props>,
	given: (part: string, viewer: Viewer) => Props,
	may: (viewer: Viewer) => boolean = all
): Line {
	const erased = view as unknown as Component<Given>; // the table holds views of any props
	return {
		path: path.split('/').filter(Boolean),
		may,
		show: (part, viewer) => {
			const props = given(part, viewer);
			return { view: erased, given: props, key: JSON.stringify(props) };
		}
	};
}

const nothing = (): Record<string, never> => ({});
const standard = () => import('./standard/Standard.svelte');
const dialects = () => import('./standard/Dialects.svelte');
const ofHouse = (viewer: Viewer): boolean => viewer.house;
const ofSeat = (viewer: Viewer): boolean => viewer.seat !== '';

const LINES: Line[] = [
	at('', Round, nothing, ofHouse),
	at('', MySeat, (_, { seat }) => ({ seat }), ofSeat),
	at('', Floor, nothing),
	at('floor', Floor, nothing),
	at('my-seat', MySeat, (_, { seat }) => ({ seat }), ofSeat),
	at('seats/:name', Seat, (name) => ({ name })),
	at('seats/:name/compare', Compare, (name) => ({ name })),
	at('drift', Drift, nothing),
	at('drift/waivers', Waivers, nothing),
	at('stores', Stores, nothing, ofHouse),
	at('stores/placement', Placement, nothing, ofHouse),
	at('stores/clearings', Clearings, nothing, ofHouse),
	at('stores/clearings/:number', Clearing, (number) => ({ number: Number(number) }), ofHouse),
	at('stores/care', Care, nothing, ofHouse),
	at('stores/projects', Projects, nothing, ofHouse),
	at('stores/projects/:number', Project, (number) => ({ number: Number(number) }), ofHouse),
	at('stores/deliveries', Deliveries, nothing, ofHouse),
	at('standard', Later, () => ({ load: standard })),
	at('standard/templates', Templates, nothing),
	at('dialects', Later, () => ({ load: dialects })),
	at('dialects/:name', Later, () => ({ load: dialects })),
	at('rollouts', Rollouts, nothing),
	at('rollouts/:number', Rollout, (number) => ({ number: Number(number) })),
	at('errands', Errands, nothing),
	at('errands/:number', Errand, (number) => ({ number: Number(number) })),
	at('measure', Measure, nothing, ofHouse),
	at('measure/new', NewTrial, nothing, ofHouse),
	at('measure/memory', Memory, nothing, ofHouse),
	at('measure/routes', Routes, nothing, ofHouse),
	at('measure/clips', Clips, nothing, ofHouse),
	at('measure/timelines', Timelines, nothing, ofHouse),
	at('measure/timelines/:number', Timeline, (number) => ({ number: Number(number) }), ofHouse),
	at('measure/trials/:number', Trial, (number) => ({ number: Number(number) }), ofHouse),
	at('measure/trials/:number/sheet', RunSheet, (number) => ({ number: Number(number) }), ofHouse),
	at('notices', Notices, nothing, ofHouse),
	at('account', Account, nothing),
	at('people', People, nothing, (viewer) => viewer.people),
	at('ledger', Ledger, nothing)
];
const NOWHERE = at('', Nowhere, nothing);

export function viewAt(parts: readonly string[], viewer: Viewer): Shown {
	const line = LINES.find(({ path, may }) => may(viewer) && fits(path, parts)) ?? NOWHERE;
	const part = parts[line.path.findIndex((word) => word.startsWith(':'))] ?? '';
	return line.show(part, viewer);
}

function fits(path: readonly string[], parts: readonly string[]): boolean {
	return path.length === parts.length && path.every((word, place) => isPart(word, parts[place] ?? ''));
}

function isPart(word: string, part: string): boolean {
	if (word === ':number') return /^\d{1,9}$/.test(part);
	return word === ':name' ? part !== '' : word === part;
}
