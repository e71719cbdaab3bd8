<!-- How sure each finding is, what was said against it, and what an operator knows better. -->
<script lang="ts">
	import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
	import { momentOf } from '../lib/say';
	import Fault from './Fault.svelte';
	import Field from './Field.svelte';

	interface Kept {
		was: unknown;
		by: string;
		at: string;
	}
	const {
		release,
		changed,
	}: { release: Schemas['ReleaseOut']; changed: (now: Schemas['ReleaseOut']) => void } = $props();
	// In the order in which people ask.
	const NAMES = [
		'version',
		'php',
		'php_below',
		'extensions',
		'wished_extensions',
		'php_settings',
		'databases',
		'installers',
		'web_folder',
		'writable',
		'samples',
		'dumps',
		'first_login',
	];
	// What the words of a first login mean to people.
	const FIRST: Record<string, string> = {
		asked: 'asked: its installer takes name and password',
		published: 'published: its texts tell a login',
		own: 'own: pages sign people in, nothing tells how the first comes about',
		server: 'server: signing in is left to the web server',
		none: 'none: nothing was found that signs anybody in',
	};
	let at = $state('');
	let given = $state('');
	let busy = $state(false);
	let fault = $state.raw<FaultBody | null>(null);
	const sure = $derived((release.findings.sure ?? {}) as Record<string, number>);
	const against = $derived((release.findings.against ?? {}) as Record<string, string[]>);
	const corrected = $derived((release.findings.corrected ?? {}) as Record<string, Kept>);

	const called = (name: string): string => name.replaceAll('_', ' ').replace(/^php\b/, 'PHP');
	const none = (value: unknown): boolean =>
		value === '' || value == null || (typeof value === 'object' && !Object.keys(value).length);
	const written = (value: unknown): string =>
		Array.isArray(value)
			? value.map(String).join(', ')
			: typeof value === 'object' && value !== null
				? Object.entries(value as Record<string, string>)
						.map(([name, least]) => `${name}=${least}`)
						.join(', ')
				: String((value as string | null) ?? '');
	const is = (name: string): string =>
		name === 'web_folder' && none(release.findings[name])
			? 'the root itself'
			: name === 'first_login'
				? (FIRST[written(release.findings[name])] ?? 'nothing says so')
				: said(release.findings[name]);
	const said = (value: unknown): string =>
		written(value) || (Array.isArray(value) ? 'none found' : 'nothing says so');
	const how = (name: string): string => {
		const share = sure[name];
		if (share === undefined) return 'not weighed';
		if (share < 0.45 && none(release.findings[name])) return 'only not found';
		return `${share >= 0.75 ? 'sure' : share >= 0.45 ? 'likely' : 'a guess'}, ${String(Math.round(share * 100))} %`;
	};
	function open(name: string): void {
		at = at === name ? '' : name;
		const now = release.findings[name];
		given = written(now);
		fault = null;
	}
	async function correct(name: string, value: string | null): Promise<void> {
		busy = true;
		try {
			const path = { ref: release.sha256 };
			const body = { values: { [name]: value } };
			changed(await done(api.PATCH('/api/v1/releases/{ref}/findings', { params: { path }, body })));
			at = '';
			fault = null;
		} catch (reason) {
			fault = faultOf(reason);
		} finally {
			busy = false;
		}
	}
</script>

<section class="card-paper weighed" aria-labelledby="weighed">
	<h2 id="weighed">How sure it is</h2>
	<p class="quiet small">
		Plans go by what is sure or likely; a guess decides nothing. What you know better is kept beside what was
		read.
	</p>
	<table>
		<thead>
			<tr><th scope="col">Finding</th><th scope="col">Is</th><th scope="col">How sure</th><td></td></tr>
		</thead>
		<tbody>
			{#each NAMES as name (name)}
				<tr>
					<th scope="row">{called(name)}</th>
					<td class="value">
						{is(name)}
						{#if against[name]?.length}<span class="quiet small">against it: {against[name].join(', ')}</span
							>{/if}
					</td>
					<td>
						{#if corrected[name]}
							<span title={momentOf(corrected[name].at)}>said by {corrected[name].by}</span>
							<span class="quiet small">read was {said(corrected[name].was)}</span>
						{:else}{how(name)}{/if}
					</td>
					<td class="act">
						<button
							class="btn btn-lesser"
							type="button"
							aria-expanded={at === name}
							aria-label="Correct {called(name)}"
							onclick={() => open(name)}>Correct</button
						>
						{#if corrected[name]}
							<button
								class="btn btn-lesser"
								type="button"
								disabled={busy}
								aria-label="Take the correction of {called(name)} back"
								onclick={() => void correct(name, null)}>As read</button
							>
						{/if}
					</td>
				</tr>
				{#if at === name}
					<tr>
						<td colspan="4">
							<form
								onsubmit={(event) => {
									event.preventDefault();
									void correct(name, given);
								}}
							>
								<Field
									label="{called(name)} is"
									bind:value={given}
									hint="Several are parted by commas; empty is none."
									autocomplete="off"
								/>
								<button class="btn btn-act" type="submit" disabled={busy}>Keep it</button>
							</form>
							{#if fault}<Fault {fault} />{/if}
						</td>
					</tr>
				{/if}
			{/each}
		</tbody>
	</table>
</section>

<style>
	.weighed {
		margin-top: 1rem;
		overflow-x: auto;
	}
	h2 {
		margin-bottom: 0.25rem;
	}
	table {
		width: 100%;
		border-collapse: collapse;
		margin-top: 0.5rem;
	}
	th,
	td {
		text-align: left;
		vertical-align: baseline;
		padding: 0.3rem 0.75rem 0.3rem 0;
	}
	thead th {
		font-size: 0.8125rem;
		color: var(--soft);
		font-weight: 600;
	}
	tbody th {
		font-weight: 600;
		white-space: nowrap;
	}
	.value {
		overflow-wrap: anywhere;
	}
	.value span,
	td > span + span {
		display: block;
	}
	.act {
		white-space: nowrap;
		text-align: right;
	}
	form {
		display: flex;
		gap: 0.75rem;
		align-items: end;
		flex-wrap: wrap;
	}
</style>
