<script lang="ts">
	import { untrack } from 'svelte';
	import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
	import type { Choice } from '../parts/Choose.svelte';
	import Choose from '../parts/Choose.svelte';
	import Drop from '../parts/Drop.svelte';
	import Fault from '../parts/Fault.svelte';
	import Field from '../parts/Field.svelte';
	import Head from '../parts/Head.svelte';
	import PlanView from '../parts/PlanView.svelte';
	import { navigate, p, route } from '../router';
	import { ASK, PlanDraft } from '../state/plan.svelte';

	const draft = new PlanDraft();
	draft.account = String(route.search.account ?? '');
	draft.release = String(route.search.release ?? '');
	const id = $props.id();
	const FIRST = ['site.title', 'admin.name', 'admin.email'];
	let values: Schemas['ValueOut'][] = $state.raw([]);
	let busy = $state(false);
	let fault = $state.raw<FaultBody | null>(null);
	let shelved = $state(0);

	$effect(() => {
		void done(api.GET('/api/v1/values')).then(
			(found) => (values = found.items),
			(reason: unknown) => (fault = faultOf(reason)),
		);
		// Once: what is chosen later is not taken back because something else changed.
		untrack(() => void draft.choose());
		return () => draft.stop();
	});
	const first = $derived(FIRST.flatMap((n) => values.filter((v) => v.name === n)));
	const others = $derived(values.filter((v) => !FIRST.includes(v.name)));
	const set = $derived(others.filter((v) => draft.settings[v.name]).length);

	async function accounts(q: string): Promise<{ items: Choice[]; total: number }> {
		const found = await done(api.GET('/api/v1/accounts', { params: { query: { q, limit: 60 } } }));
		const items = found.items.map((a) => ({
			value: a.name,
			title: a.title === a.name ? a.name : `${a.title} (${a.name})`,
		}));
		return { items: await withChosen(q, items, draft.account, accountTitle), total: found.total };
	}
	async function accountTitle(name: string): Promise<string> {
		const one = await done(api.GET('/api/v1/accounts/{name}', { params: { path: { name } } }));
		return one.title === one.name ? one.name : `${one.title} (${one.name})`;
	}
	async function releases(q: string): Promise<{ items: Choice[]; total: number }> {
		const found = await done(api.GET('/api/v1/releases', { params: { query: { q, limit: 60 } } }));
		const items = found.items.map((r) => ({ value: r.sha256, title: `${r.name} ${r.version}`.trim() }));
		return { items: await withChosen(q, items, draft.release, releaseTitle), total: found.total };
	}
	async function releaseTitle(ref: string): Promise<string> {
		const one = await done(api.GET('/api/v1/releases/{ref}', { params: { path: { ref } } }));
		return `${one.name} ${one.version}`.trim();
	}
	async function withChosen(
		q: string,
		items: Choice[],
		chosen: string,
		titleOf: (chosen: string) => Promise<string>,
	): Promise<Choice[]> {
		if (q || !chosen || items.some((c) => c.value === chosen)) return items;
		return [{ value: chosen, title: await titleOf(chosen).catch(() => chosen) }, ...items];
	}

	function kept(release: Schemas['ReleaseOut']): void {
		draft.release = release.sha256;
		shelved += 1;
		draft.touch(0);
	}

	async function start(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		busy = true;
		fault = null;
		try {
			const job = await draft.start();
			if (job !== null) await navigate('/jobs/:id', { params: { id: job } });
		} catch (reason) {
			fault = faultOf(reason);
		} finally {
			busy = false;
		}
	}
	const capital = (text = ''): string => text.charAt(0).toUpperCase() + text.slice(1);
	const plan = $derived(draft.preview?.plan ?? null);
	const forbids = $derived(draft.preview?.fault ?? null);
</script>

{#snippet setting(value: Schemas['ValueOut'])}
	{@const asked = draft.settings[value.name] === ASK}
	{@const [about, usual] = value.about.split('; default: ')}
	<div class="setting">
		<label for="{id}-{value.name}">{capital(about)}</label>
		<div class="set">
			<input
				id="{id}-{value.name}"
				class="field"
				type={value.secret ? 'password' : 'text'}
				placeholder={asked ? 'the job asks' : (usual ?? '')}
				disabled={asked}
				autocomplete={value.secret ? 'new-password' : 'off'}
				spellcheck="false"
				value={asked ? '' : (draft.settings[value.name] ?? '')}
				oninput={(event) => {
					draft.settings[value.name] = event.currentTarget.value;
					draft.touch();
				}}
			/>
			<label class="ask">
				<input
					type="checkbox"
					class="checkbox"
					checked={asked}
					aria-label="Ask me for it: {about}"
					onchange={(event) => {
						draft.settings[value.name] = event.currentTarget.checked ? ASK : '';
						draft.touch();
					}}
				/>
				ask me
			</label>
		</div>
	</div>
{/snippet}

<Head title="New job" help={['placing', 'How the files go over']}>
	<p class="quiet">
		Choose what goes where. The plan beside it is made by looking at the account; nothing is changed there
		until you start.
	</p>
</Head>
<form class="two" onsubmit={start}>
	<div class="wishes">
		<section class="card-paper rows" aria-labelledby="what">
			<h2 id="what">What and where</h2>
			<Choose
				label="Release"
				bind:value={draft.release}
				ask={releases}
				chosen={() => draft.touch(0)}
				turn={shelved}
				none="The shelf is empty; drop an archive below."
			/>
			<Drop {kept} small />
			<Choose
				label="Account"
				bind:value={draft.account}
				ask={accounts}
				chosen={() => void draft.choose()}
				none="There is no account yet."
			/>
			<p class="small"><a href={p('/accounts/new')}>Add an account</a></p>
			{#if draft.sites.length > 1}
				<div>
					<label for="{id}-site">Site</label>
					<select id="{id}-site" class="field" bind:value={draft.site} onchange={() => draft.touch(0)}>
						{#each draft.sites as site (site.address)}
							<option value={site.own ? '' : site.address}>{site.address} ({site.root})</option>
						{/each}
					</select>
				</div>
			{/if}
			<Field
				label="Place"
				bind:value={draft.at}
				required
				spellcheck="false"
				autocapitalize="none"
				oninput={() => draft.touch()}
				hint="/ is the document root itself, /diary a folder in it. The folder is made when it is not there."
			/>
		</section>
		<section class="card-paper rows" aria-labelledby="values">
			<h2 id="values">Values</h2>
			<p class="small quiet">
				All have a default, passwords are generated. With “ask me” the job waits for your answer when the
				installer wants it.
			</p>
			{#each first as value (value.name)}{@render setting(value)}{/each}
			<details>
				<summary>{others.length} more{set ? `, ${set} set` : ''}</summary>
				<div class="rows">
					{#each others as value (value.name)}{@render setting(value)}{/each}
				</div>
			</details>
			<details>
				<summary>Database, way, what is there, configuration, failure</summary>
				<div class="rows">
					<div>
						<label for="{id}-database">Database</label>
						<select
							id="{id}-database"
							class="field"
							bind:value={draft.database}
							onchange={() => draft.touch(0)}
						>
							<option value="">What the release wants</option>
							<option value="mariadb">MariaDB</option>
							<option value="postgresql">PostgreSQL</option>
							<option value="none">None</option>
						</select>
					</div>
					<div>
						<label for="{id}-way">How the files go over</label>
						<select id="{id}-way" class="field" bind:value={draft.way} onchange={() => draft.touch(0)}>
							<option value="">The best way that is open</option>
							<option value="shell-fetch">The host fetches it from its makers</option>
							<option value="shell-stream">A stream into the shell’s tar</option>
							<option value="shell-unzip">Archive, unpacked by the shell (unzip)</option>
							<option value="shell-tar">Archive, unpacked by the shell (tar)</option>
							<option value="shell-php">Archive, unpacked by the shell’s PHP</option>
							<option value="helper-fetch">PHP there fetches it from its makers</option>
							<option value="helper-tar">Packed again, unpacked by PHP as it comes</option>
							<option value="helper">Archive, unpacked by PHP through the helper</option>
							<option value="panel">Archive, unpacked by the panel</option>
							<option value="files">Every file by itself</option>
						</select>
					</div>
					<div>
						<label for="{id}-there">What stands at the place</label>
						<select id="{id}-there" class="field" bind:value={draft.ifThere} onchange={() => draft.touch(0)}>
							<option value="">Nothing may stand there</option>
							<option value="beside">It stays; no name may be taken</option>
							<option value="merge">Merged: a file that both have steps aside</option>
							<option value="replace">Replaced: all of it steps aside</option>
						</select>
						<p class="small quiet">What steps aside is kept on the account.</p>
					</div>
					<div>
						<label for="{id}-configure">The configuration</label>
						<select
							id="{id}-configure"
							class="field"
							bind:value={draft.configure}
							onchange={() => draft.touch(0)}
						>
							<option value="">The installer writes it</option>
							<option value="sample">From the release’s sample, before the installer is opened</option>
						</select>
						<p class="small quiet">A sample gets the database, the address and keys made for this site.</p>
					</div>
					<label class="keep">
						<input type="checkbox" class="checkbox" bind:checked={draft.keep} />
						<span
							>Leave everything as it is if the job fails <span class="quiet small"
								>Usually all of it is taken back.</span
							></span
						>
					</label>
				</div>
			</details>
		</section>
	</div>

	<section class="card-paper plan" aria-labelledby="plan" aria-busy={draft.looking}>
		<h2 id="plan">
			Plan <span class="small quiet look" aria-live="polite"
				>{draft.looking ? 'looking at the account…' : ''}</span
			>
		</h2>
		{#if draft.fault}<Fault fault={draft.fault} again={() => draft.touch(0)} />{/if}
		{#if !draft.ready}
			<p class="quiet">The plan appears here as soon as a release and an account are chosen.</p>
		{:else if draft.preview}
			{#if draft.preview.address}
				<p class="address code">{draft.preview.address}</p>
				<p class="quiet small on">on the host <span class="code">{draft.preview.target}</span></p>
			{/if}
			{#if draft.changed}
				<p class="changed" role="alert">
					<strong>The place looks different than a moment ago.</strong> This is the plan as it is now; start again
					if it is right.
				</p>
			{/if}
			{#if forbids}<Fault fault={forbids} again={forbids.retryable ? () => draft.touch(0) : undefined} />{/if}
			{#if plan}
				<PlanView {plan}>
					{#if fault}<Fault {fault} />{/if}
					{#if plan.forbids?.length}
						<label class="keep spite">
							<input type="checkbox" class="checkbox" bind:checked={draft.inSpite} />
							<span
								>Start it in spite of that <span class="quiet small"
									>When it was mended on the host, check the account again instead.</span
								></span
							>
						</label>
					{/if}
					<div class="go">
						<button
							class="btn btn-act"
							type="submit"
							disabled={busy || draft.looking || ((plan.forbids?.length ?? 0) > 0 && !draft.inSpite)}
							>{busy ? 'Starting…' : 'Start the install'}</button
						>
						<span class="small quiet">Looked at once more before anything moves.</span>
					</div>
				</PlanView>
			{:else if fault}<Fault {fault} />{/if}
		{/if}
	</section>
</form>

<style>
	.two {
		display: grid;
		grid-template-columns: minmax(0, 5fr) minmax(0, 7fr);
		gap: 1rem;
		align-items: start;
	}
	.wishes {
		display: grid;
		gap: 1rem;
	}
	label {
		display: block;
		font-weight: 600;
		margin-bottom: 0.2rem;
	}
	.set {
		display: flex;
		gap: 0.7rem;
		align-items: center;
	}
	.ask,
	.keep {
		display: flex;
		gap: 0.4rem;
		align-items: center;
		font-weight: 400;
		white-space: nowrap;
		margin: 0;
		font-size: 0.875rem;
	}
	.keep {
		white-space: normal;
		align-items: start;
	}
	.spite {
		margin-top: 0.8rem;
	}
	.keep span span {
		display: block;
	}
	summary {
		color: light-dark(var(--color-primary-700), var(--color-primary-300));
		width: fit-content;
	}
	details[open] summary {
		margin-bottom: 0.6rem;
	}
	.plan {
		min-height: 12rem;
	}
	/* The plan stays beside what is typed, its button too. */
	@media (min-width: 821px) {
		.plan {
			position: sticky;
			top: 4.2rem;
			max-height: calc(100vh - 5.2rem);
			overflow-y: auto;
		}
	}
	.plan h2 {
		margin-bottom: 0.4rem;
	}
	.look {
		font-weight: 400;
		margin-left: 0.5rem;
	}
	.address {
		font-size: 1.0625rem;
		font-weight: 620;
	}
	.on {
		margin-bottom: 0.8rem;
	}
	.changed {
		border-left: 4px solid var(--heed);
		padding: 0.3rem 0.8rem;
		margin-bottom: 0.8rem;
	}
	.go {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 0.4rem 1rem;
		margin-top: 1rem;
	}
	@media (max-width: 820px) {
		.two {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
