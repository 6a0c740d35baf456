<!-- A rule as a sentence with gaps: the setting by its title, the required value, the condition, severity and reason. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import { nameOf } from '../../model/words/names';
	import { CHECKS, given, keyOfTitle, partsOf, titleOfKey, type Check } from '../../model/words/rule';
	import { SEVERITIES } from '../../model/words/severity';
	import { Acts } from '../../state/acts.svelte';
	import Faults from './Faults.svelte';

	type Fields = Schemas['RuleEditIn']['fields'];
	type Props = {
		fields: Record<string, unknown>;
		onsave: (fields: Fields) => Promise<void>;
		onremove?: () => Promise<void>;
		onclose: () => void;
	};
	let { fields, onsave, onremove, onclose }: Props = $props();

	const words = createQuery(ask.words);
	const dialects = createQuery(ask.dialects);
	const settings = $derived(words.data?.settings ?? []);
	// svelte-ignore state_referenced_locally (the form begins with the rule as it was when it was opened)
	const was = partsOf(fields);
	let { setting, app, when, because, rests_on } = $state(was);
	let check = $state<Check>(was.check);
	let values = $state(was.values);
	let severity = $state(was.severity);
	let evidence = $state(was.evidence);
	let fix = $state(was.fix);
	let versions = $state(was.versions);
	let locked = $state(was.locked);
	const acts = new Acts();

	/** What is typed in the setting's field: a title of the list, or a key. */
	let typed = $state<string>();
	const shown = $derived(typed ?? titleOfKey(settings, setting));
	const chosen = $derived(settings.find(({ key }) => key === setting));
	const apps = $derived(
		[...new Set([...(dialects.data?.items ?? []).map((dialect) => dialect.app), app])].filter(Boolean).sort()
	);

	function choose(field: HTMLInputElement): void {
		typed = field.value;
		const key = keyOfTitle(settings, field.value);
		setting = key ?? '';
		field.setCustomValidity(key || !field.value ? '' : 'No setting has this name. Select one from the list.');
	}

	function insert(select: HTMLSelectElement): void {
		when = when.trim() ? `${when.trimEnd()} and ${select.value}` : select.value;
		select.value = '';
	}

	function save(event: SubmitEvent): void {
		event.preventDefault();
		const parts = { setting, app, check, values, when, versions, severity, because };
		void acts.do(() => onsave(given(was, { ...parts, evidence, rests_on, fix, locked })));
	}
</script>

<form class="gaps" onsubmit={save}>
	<label>
		<span>Setting</span>
		<input
			class="field"
			list="settings"
			required
			value={shown}
			oninput={(event) => choose(event.currentTarget)}
			aria-label="Setting"
			placeholder="Memory reserve"
		/>
	</label>
	<label
		><span>in</span>
		<select class="field short" bind:value={app} aria-label="Application">
			<option value="">any application</option>
			{#each apps as name (name)}<option value={name}>{nameOf(name)}</option>{/each}
		</select></label
	>
	<label>
		<span>check</span>
		<select class="field short" bind:value={check} aria-label="Check">
			{#each CHECKS as [name, told] (name)}<option value={name}>{told}</option>{/each}
		</select>
	</label>
	<input
		class="field value grow"
		required
		bind:value={values}
		list={chosen?.values.length ? 'values' : undefined}
		aria-label="Required value"
		placeholder={check === 'between' ? '2 GiB, 8 GiB' : check === 'must' ? 'volume.free >= 120 GB' : '4 GiB'}
	/>
	<label class="w-full"
		><span>when</span>
		<input class="field value grow" bind:value={when} aria-label="When" placeholder="always" />
		<select class="field short" aria-label="Insert a fact" onchange={(event) => insert(event.currentTarget)}>
			<option value="">insert a fact…</option>
			{#each words.data?.facts ?? [] as fact (fact.name)}<option value={fact.name}>{fact.title}</option
				>{/each}
		</select></label
	>
	<label class="w-full"
		><span>because</span>
		<input class="field grow" bind:value={because} aria-label="Because" maxlength="400" /></label
	>
	<label>
		<span>severity</span>
		<select class="field short" bind:value={severity} aria-label="Severity"
			>{#each SEVERITIES as [key, words] (key)}<option value={key}>{words}</option>{/each}</select
		>
	</label>
	<label>
		<span>evidence</span>
		<select class="field short" bind:value={evidence} aria-label="Evidence"
			><option>measured</option><option>observed</option><option>untested</option></select
		>
	</label>
	{#if evidence !== 'untested'}
		<label class="w-full"
			><span>source</span>
			<input
				class="field grow"
				bind:value={rests_on}
				aria-label="Source"
				maxlength="300"
				placeholder="trial, or where it was observed"
			/></label
		>
	{/if}
	<label
		><span>correct to</span>
		<input
			class="field value short"
			bind:value={fix}
			aria-label="Fix"
			placeholder="the required value"
		/></label
	>
	<label
		><span>for versions</span>
		<input class="field value short" bind:value={versions} aria-label="Versions" placeholder="all" /></label
	>
	<label><input type="checkbox" bind:checked={locked} /> locked</label>
	<Faults {acts} />
	<div class="flex w-full gap-3">
		<button class="do" disabled={acts.busy}>Apply</button>
		<button type="button" class="may" onclick={onclose}>Cancel</button>
		{#if onremove}<button type="button" class="may" disabled={acts.busy} onclick={() => acts.do(onremove)}
				>Delete rule</button
			>{/if}
	</div>
	<datalist id="settings">
		{#each settings as { key, title } (key)}<option value={title}>{key}</option>{/each}
	</datalist>
	<datalist id="values">
		{#each chosen?.values ?? [] as value (value)}<option {value}></option>{/each}
	</datalist>
</form>
