import { api, data, done, type Schemas } from './client';

/** Every write of the interface, once: what is asked of the server, with what comes back. A refusal is thrown. */

type Seen = { id: number; seen: string };
type PlanIn = { name: string; findings: number[]; terms: Schemas['TermsIn'] };

const path = <T extends object>(path: T) => ({ params: { path } });

/** A form with a file goes as the browser packs it. */
function packed(fields: Record<string, string | File | undefined> | FormData) {
	const form = fields instanceof FormData ? fields : new FormData();
	if (!(fields instanceof FormData))
		for (const [name, value] of Object.entries(fields)) if (value !== undefined) form.set(name, value);
	return { body: form as never, bodySerializer: () => form };
}

export const write = {
	// Seats
	askForSurvey: (name: string) => done(api.POST('/api/v1/seats/{name}/survey', path({ name }))),
	askAt: (name: string, app: string, why: string) =>
		done(api.POST('/api/v1/seats/{name}/ask', { ...path({ name }), body: { app, why } })),
	enterReading: (name: string, body: Schemas['ReadingIn']) =>
		done(api.POST('/api/v1/seats/{name}/readings', { ...path({ name }), body })),
	lookAtStore: (name: string, body: Schemas['LookIn']) =>
		data(api.POST('/api/v1/seats/{name}/stores/look', { ...path({ name }), body })),
	clearStore: (name: string, order: string, keep: string[]) =>
		done(api.POST('/api/v1/seats/{name}/stores/clear', { ...path({ name }), body: { order, keep } })),
	inspectExport: (name: string, body: Schemas['InspectIn']) =>
		data(api.POST('/api/v1/seats/{name}/exports/inspect', { ...path({ name }), body })),
	retireSeat: (name: string, reason: string) =>
		done(api.POST('/api/v1/seats/{name}/retire', { ...path({ name }), body: { reason } })),
	replaceSeat: (name: string, reason: string) =>
		data(api.POST('/api/v1/seats/{name}/replace', { ...path({ name }), body: { reason } })),
	uploadSurvey: (survey: File) => data(api.POST('/api/v1/surveys', packed({ survey }))),

	// Register and floor
	offerEnrolment: (body: Schemas['EnrolmentIn']) => data(api.POST('/api/v1/enrolments', { body })),
	editSeats: (body: Schemas['EditIn']) => done(api.PATCH('/api/v1/register', { body })),
	importTable: (table: File, apply: boolean) =>
		data(api.POST('/api/v1/register/import', { params: { query: { apply } }, ...packed({ table }) })),
	arrangeFloor: (body: Schemas['FloorIn']) => done(api.PUT('/api/v1/floor', { body })),

	// Findings and waivers
	findingsAt: (places: Schemas['PlaceIn'][]) =>
		data(api.POST('/api/v1/drift/findings', { body: { places } })),
	waive: (body: Schemas['WaiveIn']) => done(api.POST('/api/v1/waivers', { body })),
	endWaiver: (number: number) => done(api.POST('/api/v1/waivers/{number}/end', path({ number }))),
	prolongWaiver: (number: number, body: Schemas['ProlongIn']) =>
		done(api.POST('/api/v1/waivers/{number}/prolong', { ...path({ number }), body })),
	endProduction: (production: string) => done(api.POST('/api/v1/productions/end', { body: { production } })),

	// Clearing, and what releases it
	beginClearing: (body: Schemas['ClearingIn']) => data(api.POST('/api/v1/clearings', { body })),
	signClearing: (number: number, seen: string) =>
		done(api.POST('/api/v1/clearings/{number}/sign', { ...path({ number }), body: { seen } })),
	haltClearing: (number: number, why: string) =>
		done(api.POST('/api/v1/clearings/{number}/halt', { ...path({ number }), body: { why } })),
	resumeClearing: (number: number) => done(api.POST('/api/v1/clearings/{number}/resume', path({ number }))),
	dropClearing: (number: number) => done(api.POST('/api/v1/clearings/{number}/drop', path({ number }))),
	goWithout: (number: number) => done(api.POST('/api/v1/clearings/{number}/leave-out', path({ number }))),
	putClearingBack: (number: number) =>
		done(api.POST('/api/v1/clearings/{number}/put-back', path({ number }))),
	askForList: (number: number, name: string, place: number) =>
		done(
			api.POST('/api/v1/clearings/{number}/seats/{name}/stores/{place}/list', path({ number, name, place }))
		),
	stopCare: (name: string, why: string) =>
		done(api.POST('/api/v1/standing-care/stop', { body: { name, why } })),
	resumeCare: (name: string) => done(api.POST('/api/v1/standing-care/resume', { body: { name } })),
	lookForCare: (text: string, name: string) =>
		data(api.POST('/api/v1/standing-care/look', { body: { text, name } })),
	lookAtProjects: (body: Schemas['LookAtProjectsIn']) => data(api.POST('/api/v1/projects/look', { body })),
	bringProject: (app: string, project: File) => data(api.POST('/api/v1/projects', packed({ app, project }))),
	sendProject: (number: number, sent: boolean) =>
		done(api.POST('/api/v1/projects/{number}/send', { ...path({ number }), body: { sent } })),
	projectErrand: (number: number) => data(api.POST('/api/v1/projects/{number}/errand', path({ number }))),
	forgetProject: (number: number) => done(api.DELETE('/api/v1/projects/{number}', path({ number }))),
	lookEachNight: (production: string, storage: string) =>
		data(api.POST('/api/v1/projects/nightly', { body: { production, storage } })),
	endNightly: (number: number) => done(api.DELETE('/api/v1/projects/nightly/{number}', path({ number }))),
	proposeDelivery: (body: Schemas['DeliveryIn']) => done(api.POST('/api/v1/deliveries', { body })),
	signDelivery: ({ id, seen }: Seen) =>
		done(api.POST('/api/v1/deliveries/{number}/sign', { ...path({ number: id }), body: { seen } })),
	assignDelivery: (number: number, body: Schemas['AssignDeliveryIn']) =>
		done(api.POST('/api/v1/deliveries/{number}/assign', { ...path({ number }), body })),
	layInspectionBeside: (number: number, order: string) =>
		done(api.POST('/api/v1/deliveries/{number}/inspection', { ...path({ number }), body: { order } })),
	withdrawDelivery: (number: number, reason: string) =>
		done(api.POST('/api/v1/deliveries/{number}/withdraw', { ...path({ number }), body: { reason } })),
	closeProduction: (name: string) => done(api.POST('/api/v1/productions/close', { body: { name } })),
	reopenProduction: (number: number) => done(api.DELETE('/api/v1/productions/{number}', path({ number }))),

	// Trials
	startTrial: (body: Schemas['TrialIn']) => data(api.POST('/api/v1/trials', { body })),
	haltTrial: (number: number, why: string) =>
		done(api.POST('/api/v1/trials/{number}/halt', { ...path({ number }), body: { why } })),
	keepClip: (about: { name: string; codec: string; width: string; height: string }, file: File) =>
		done(api.POST('/api/v1/clips', packed({ ...about, file }))),
	takeRun: (number: number, seat: string, run: number) =>
		data(api.POST('/api/v1/trials/{number}/sheet/{seat}/take', { ...path({ number, seat }), body: { run } })),
	noteRun: (number: number, seat: string, body: Schemas['NoteIn']) =>
		data(api.POST('/api/v1/trials/{number}/sheet/{seat}/note', { ...path({ number, seat }), body })),
	endRun: (number: number, seat: string, run: number) =>
		data(api.POST('/api/v1/trials/{number}/sheet/{seat}/end', { ...path({ number, seat }), body: { run } })),
	leaveRun: (number: number, seat: string, run: number) =>
		data(
			api.POST('/api/v1/trials/{number}/sheet/{seat}/leave', { ...path({ number, seat }), body: { run } })
		),
	draftOfTrial: (number: number, attach: boolean) =>
		data(api.POST('/api/v1/trials/{number}/draft', { ...path({ number }), body: { attach } })),
	draftOfMemory: (name: string, body: Schemas['CutIn']) =>
		data(api.POST('/api/v1/seats/{name}/memory/draft', { ...path({ name }), body })),
	keepTimeline: (name: string, file: File, media: string) =>
		data(api.POST('/api/v1/timelines', packed({ name, file, media }))),
	keepMedia: (number: number, media: string) =>
		done(api.POST('/api/v1/timelines/{number}/media', { ...path({ number }), body: { media } })),
	dropTimeline: (number: number) => done(api.DELETE('/api/v1/timelines/{number}', path({ number }))),
	keepEffects: (text: string, base: number) => done(api.PUT('/api/v1/effects', { body: { text, base } })),
	dropClip: (number: number) => done(api.DELETE('/api/v1/clips/{number}', path({ number }))),

	// Plans, rollouts, errands
	startRollout: (body: Schemas['StartIn']) => data(api.POST('/api/v1/rollouts', { body })),
	rehearse: (findings: number[], rounder: boolean) =>
		data(api.POST('/api/v1/rehearsals', { body: { findings, rounder } })),
	keepPlan: (body: PlanIn) => data(api.POST('/api/v1/plans', { body })),
	changePlan: ({ id, seen }: Seen, body: PlanIn) =>
		data(api.PUT('/api/v1/plans/{number}', { ...path({ number: id }), body: { ...body, seen } })),
	forgetPlan: (number: number) => done(api.DELETE('/api/v1/plans/{number}', path({ number }))),
	keepPlanOfDraft: (body: Schemas['KeepDraftPlanIn']) => data(api.POST('/api/v1/plans/draft/keep', { body })),
	giveErrands: (findings: number[]) => data(api.POST('/api/v1/errands', { body: { findings } })),
	giveErrand: (body: Schemas['ErrandIn']) => data(api.POST('/api/v1/errands/by-hand', { body })),
	signOff: (number: number, words: string) =>
		done(api.POST('/api/v1/errands/{number}/sign-off', { ...path({ number }), body: { words } })),
	dropErrand: (number: number, why: string) =>
		done(api.POST('/api/v1/errands/{number}/drop', { ...path({ number }), body: { why } })),
	/** What is done to a rollout as a whole. */
	toRollout: (number: number, what: 'approve' | 'halt' | 'resume' | 'go-on') =>
		done(api.POST(`/api/v1/rollouts/{number}/${what}`, path({ number }))),
	beginNow: (number: number, why: string) =>
		done(api.POST('/api/v1/rollouts/{number}/begin', { ...path({ number }), body: { why } })),
	retry: (number: number, seats: string[]) =>
		done(api.POST('/api/v1/rollouts/{number}/retry', { ...path({ number }), body: { seats } })),
	putBack: (number: number, seats: string[] = []) =>
		data(api.POST('/api/v1/rollouts/{number}/put-back', { ...path({ number }), body: { seats } })),
	decide: (number: number, name: string, what: 'go-ahead' | 'leave-out') =>
		done(api.POST(`/api/v1/rollouts/{number}/seats/{name}/${what}`, path({ number, name }))),
	putOff: (number: number, name: string, until: string) =>
		data(
			api.POST('/api/v1/rollouts/{number}/seats/{name}/put-off', {
				...path({ number, name }),
				body: { until }
			})
		),
	objectTo: (number: number, name: string, body: Schemas['ObjectionIn']) =>
		data(api.POST('/api/v1/rollouts/{number}/seats/{name}/object', { ...path({ number, name }), body })),

	// Rooms, packages, proposals
	keepCalendar: (room: string, calendar: File) =>
		data(api.POST('/api/v1/rooms/calendar', packed({ room, calendar }))),
	followCalendar: (room: string, address: string) =>
		data(api.POST('/api/v1/rooms/calendar/follow', { body: { room, address } })),
	forgetCalendar: (room: string) =>
		data(api.DELETE('/api/v1/rooms/calendar', { params: { query: { room } } })),
	keepPackage: (fields: Record<string, string>, file: File) =>
		done<Schemas['ListOf_PackageOut_']>(api.POST('/api/v1/packages', packed({ ...fields, package: file }))),
	withdrawPackage: (number: number) => data(api.DELETE('/api/v1/packages/{number}', path({ number }))),
	approveProposal: ({ id, seen }: Seen) =>
		done(api.POST('/api/v1/proposals/{number}/approve', { ...path({ number: id }), body: { seen } })),
	refuseProposal: (number: number) =>
		done(api.POST('/api/v1/proposals/{number}/refuse', { ...path({ number }), body: { reason: '' } })),

	// The standard
	editRule: (body: Schemas['RuleEditIn']) => data(api.POST('/api/v1/standard/edit', { body })),
	addReleases: (text: string, table: File) =>
		data(api.POST('/api/v1/standard/releases', packed({ text, table }))),
	publish: (body: Schemas['PublishIn']) => data(api.POST('/api/v1/standard/publish', { body })),
	keepDraft: (body: Schemas['DraftIn']) => data(api.POST('/api/v1/standard/drafts', { body })),
	changeDraft: ({ id, seen }: Seen, text: string, note: string) =>
		data(
			api.PUT('/api/v1/standard/drafts/{number}', { ...path({ number: id }), body: { text, note, seen } })
		),
	publishDraft: ({ id, seen }: Seen, at: string | null) =>
		done(
			api.POST('/api/v1/standard/drafts/{number}/publish', { ...path({ number: id }), body: { at, seen } })
		),
	toDraft: ({ id, seen }: Seen, what: 'approve' | 'drop') =>
		done(api.POST(`/api/v1/standard/drafts/{number}/${what}`, { ...path({ number: id }), body: { seen } })),

	// Dialects and templates
	tryDialect: (text: string, seat: string) =>
		data(api.POST('/api/v1/dialects/try', { body: { text, seat, files: {}, paths: [] } })),
	keepDialect: (text: string, base: number, admits: string[]) =>
		done<Schemas['KeptOut']>(api.POST('/api/v1/dialects/keep', { body: { text, base, admits } })),
	keepTemplate: (fields: FormData) => data(api.POST('/api/v1/templates', packed(fields))),
	dropTemplate: (number: number) => done(api.DELETE('/api/v1/templates/{number}', path({ number }))),

	// What one is told, and who one is
	chooseNotices: (body: Schemas['ChoiceIn']) => done(api.PUT('/api/v1/notices/choice', { body })),
	confirmMail: (code: string) => done(api.POST('/api/v1/notices/confirm', { body: { code } })),
	askForCode: () => done(api.POST('/api/v1/notices/code')),
	addHook: (address: string) => data(api.POST('/api/v1/notices/hooks', { body: { address } })),
	dropHook: (number: number) => done(api.DELETE('/api/v1/notices/hooks/{number}', path({ number }))),
	tryNotices: () => done(api.POST('/api/v1/notices/try')),
	signIn: (name: string, password: string) => data(api.POST('/api/v1/session', { body: { name, password } })),
	signOut: () => done(api.DELETE('/api/v1/session')),
	setPassword: (link: string, password: string) =>
		done(api.POST('/api/v1/session/password', { body: { link, password } })),
	changePassword: (old: string, fresh: string) =>
		done(api.PUT('/api/v1/account/password', { body: { old, new: fresh } })),
	makeToken: (name: string, scope: Schemas['Scope'], days: number) =>
		data(api.POST('/api/v1/account/tokens', { body: { name, scope, days } })),
	withdrawToken: (number: number) => done(api.DELETE('/api/v1/account/tokens/{number}', path({ number }))),

	// People
	addPerson: (name: string, role: Schemas['Role'], seat: string) =>
		data(api.POST('/api/v1/people', { body: { name, role, seat } })),
	offerLink: (name: string) => data(api.POST('/api/v1/people/{name}/link', path({ name }))),
	changePerson: (name: string, body: Schemas['ChangeIn']) =>
		done(api.PATCH('/api/v1/people/{name}', { ...path({ name }), body })),
	toPerson: (name: string, what: 'disable' | 'enable' | 'end-sessions') =>
		done(api.POST(`/api/v1/people/{name}/${what}`, path({ name })))
};
