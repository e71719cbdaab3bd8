<script lang="ts">
	import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
	import { isAboutDatabase, KIND_WORDS } from '../lib/legs';
	import { momentOf } from '../lib/say';
	import { meaning } from '../lib/survey';
	import AccountForm, { type Given } from '../parts/AccountForm.svelte';
	import Confirm from '../parts/Confirm.svelte';
	import Databases from '../parts/Databases.svelte';
	import Facts from '../parts/Facts.svelte';
	import Fault from '../parts/Fault.svelte';
	import Head from '../parts/Head.svelte';
	import Licences from '../parts/Licences.svelte';
	import Sites from '../parts/Sites.svelte';
	import SurveyTable from '../parts/SurveyTable.svelte';
	import State from '../parts/State.svelte';
	import { navigate, p, route } from '../router';
	import { SurveyWatch } from '../state/survey.svelte';

	type Account = Schemas['AccountOut'];
	const name = $derived(route.params.name ?? '');
	let account = $state.raw<Account | null>(null);
	let stands: Schemas['InstallationOut'][] = $state.raw([]);
	let jobs: Schemas['JobOut'][] = $state.raw([]);
	let fault = $state.raw<FaultBody | null>(null);
	let turn = $state(0);
	let paper = $state('');
	let changing = $state(false);
	let forget: Confirm | undefined = $state();

	// The account changes with its survey: a root that was found, an identity that was pinned.
	const watch = new SurveyWatch((of) => void refresh(of));

	$effect(() => {
		void load(name);
		return () => watch.stop();
	});

	async function load(wanted: string): Promise<void> {
		account = null;
		paper = '';
		try {
			const path = { name: wanted };
			const [found, installed, ran] = await Promise.all([
				done(api.GET('/api/v1/accounts/{name}', { params: { path } })),
				done(api.GET('/api/v1/installations', { params: { query: { account: wanted, limit: 20 } } })),
				done(api.GET('/api/v1/jobs', { params: { query: { account: wanted, limit: 5 } } })),
			]);
			if (wanted !== name) return;
			[account, stands, jobs, fault] = [found, installed.items, ran.items, null];
		} catch (reason) {
			fault = faultOf(reason);
			return;
		}
		if (route.search.check === 'yes') {
			history.replaceState(history.state, '', location.pathname);
			await check();
		} else await watch.load(wanted);
	}

	async function refresh(wanted: string): Promise<void> {
		try {
			const found = await done(api.GET('/api/v1/accounts/{name}', { params: { path: { name: wanted } } }));
			if (wanted === name) [account, turn] = [found, turn + 1];
		} catch (reason) {
			fault = faultOf(reason);
		}
	}

	const check = (accept = false): Promise<void> => watch.order(name, accept);

	async function support(): Promise<void> {
		try {
			paper = (await done(api.GET('/api/v1/accounts/{name}/helper-text', { params: { path: { name } } })))
				.text;
		} catch (reason) {
			fault = faultOf(reason);
		}
	}

	/** The name stays: the service takes no other. */
	function withoutName(given: Record<string, unknown>): Schemas['AccountChange'] {
		return Object.fromEntries(Object.entries(given).filter(([field]) => field !== 'name'));
	}

	async function change(given: Given): Promise<void> {
		const { password, key, passphrase, panel_password, ...rest } = given;
		const secrets = Object.fromEntries(
			Object.entries({ password, key, passphrase, panel_password }).filter(([, v]) => v),
		);
		account = await done(
			api.PATCH('/api/v1/accounts/{name}', {
				params: { path: { name } },
				body: { ...withoutName(rest), ...secrets },
			}),
		);
		changing = false;
		await check();
	}

	async function remove(): Promise<void> {
		await done(api.DELETE('/api/v1/accounts/{name}', { params: { path: { name } } }));
		await navigate('/accounts');
	}
</script>

<Head title={account?.title ?? name} above="Accounts" up={p('/accounts')}>
	{#snippet aside()}
		{#if account && !changing}
			<a class="btn btn-act plain" href={p('/jobs/new', { search: { account: name } })}>Plan an install</a>
			<button class="btn btn-lesser" type="button" disabled={watch.busy} onclick={() => void check()}
				>{watch.busy ? 'Looking…' : 'Check it'}</button
			>
			<button class="btn btn-lesser" type="button" onclick={() => (changing = true)}>Change</button>
			<button class="btn btn-lesser" type="button" onclick={() => forget?.ask()}>Forget</button>
		{/if}
	{/snippet}
</Head>
{#if fault}<Fault {fault} again={() => void load(name)} />{/if}
{#if account}
	{#if changing}
		<AccountForm
			{account}
			word="Change it and look whether it works"
			keep={change}
			leave={() => (changing = false)}
		/>
	{:else}
		<div class="two">
			<section class="card-paper" aria-labelledby="how">
				<h2 id="how">How it is reached</h2>
				<Facts
					facts={[
						{ name: 'Short name', value: account.name, code: true },
						{ name: 'Transfer', value: account.transfer, code: true },
						{
							name: 'Document root',
							value: account.root || 'not known yet: a check looks for it',
							code: account.root !== '',
						},
						{ name: 'Address', value: account.address, href: account.address },
						{ name: 'Reached at', value: account.reach, code: true, note: 'while the name leads elsewhere' },
						{ name: 'Panel', value: account.panel, href: account.panel },
						{ name: 'Panel login', value: account.panel_login, code: true },
						{ name: 'Database host', value: account.database_host, code: true },
						{ name: 'E-mail', value: account.email || 'none: a job asks when an installer wants one' },
						{ name: 'SSH agent', value: account.agent ? 'opens the login' : '' },
						{ name: 'Helper', value: account.helper ? 'allowed' : 'not allowed' },
					]}
				/>
				<details
					class="paper"
					ontoggle={(event) => {
						if (event.currentTarget.open && !paper) void support();
					}}
				>
					<summary>A text for the host's support, about the helper</summary>
					<pre class="small">{paper || 'One moment…'}</pre>
				</details>
			</section>
			<div class="beside">
				{#if watch.survey && meaning(watch.survey.lines).length}
					<section class="card-paper" aria-labelledby="means">
						<h2 id="means">What jobs can do there</h2>
						<Facts
							facts={meaning(watch.survey.lines).map((line) => ({ name: line.title, value: line.text }))}
						/>
					</section>
				{/if}
				<section class="card-paper" aria-labelledby="stands">
					<h2 id="stands">What stands there</h2>
					{#if stands.length}
						<ul class="plainly">
							{#each stands as one (one.id)}
								<li>
									<a href={p('/installations/:id', { params: { id: one.id } })}
										>{one.application} {one.version}</a
									>
									<span class="code">{one.address}</span>
									<span class="small quiet">{momentOf(one.created_at)}</span>
								</li>
							{/each}
						</ul>
					{:else}<p class="quiet">Nothing that High Shelf put there.</p>{/if}
				</section>
			</div>
		</div>
		<section class="below" aria-labelledby="known">
			<h2 id="known">What is known</h2>
			{#if watch.fault}<div class="said"><Fault fault={watch.fault} again={() => void check()} /></div>{/if}
			{#if watch.survey}
				{#if watch.survey.fault?.code === 'fingerprint-changed'}
					<p class="accept">
						<button class="btn btn-small btn-lesser" type="button" onclick={() => void check(true)}
							>Take the new identity</button
						>
						<span class="small quiet">Only after the host said that its server has a new one.</span>
					</p>
				{:else if watch.survey.fault?.code === 'unknown-server'}
					<p class="accept">
						<button class="btn btn-small btn-lesser" type="button" onclick={() => void check(true)}
							>Yes, this is the server</button
						>
						<span class="small quiet"
							>After comparing its identity with the host's letter; nothing was sent yet.</span
						>
					</p>
				{/if}
				<SurveyTable survey={watch.survey} />
			{:else if watch.busy}
				<p class="quiet">One moment…</p>
			{:else if !watch.fault}
				<p class="quiet">
					Not checked yet. A check signs in everywhere, finds and proves the document root, learns PHP's
					limits and what the host does, and notes the server's identity. Nothing is left there.
				</p>
			{/if}
		</section>
		<section class="below" aria-labelledby="sites">
			<h2 id="sites">Sites and places</h2>
			<Sites {name} {turn} />
		</section>
		<section class="below" aria-labelledby="databases">
			<h2 id="databases">Databases</h2>
			<Databases {name} />
		</section>
		<section class="below" aria-labelledby="licences">
			<h2 id="licences">Licence keys</h2>
			<Licences {name} />
		</section>
		{#if jobs.length}
			<section class="below" aria-labelledby="jobs">
				<h2 id="jobs">Last jobs</h2>
				<ul>
					{#each jobs as job (job.id)}
						<li>
							<a href={p('/jobs/:id', { params: { id: job.id } })}>{job.application}</a>
							<span
								><State state={job.state} />
								{#if KIND_WORDS[job.kind]?.what}{KIND_WORDS[job.kind]?.what}{/if}
								{#if !isAboutDatabase(job)}<span class="code">{job.address}</span>{/if}</span
							>
							<span class="small quiet">{momentOf(job.created_at)}</span>
						</li>
					{/each}
				</ul>
			</section>
		{/if}
	{/if}
	<Confirm
		bind:this={forget}
		title="Forget the account {account.name}?"
		text="Its logins and passwords leave the strongbox. Nothing on the host is touched. It is refused while an installation stands there."
		word="Forget it"
		act={remove}
	/>
{:else if !fault}
	<p class="quiet">Looking…</p>
{/if}

<style>
	.plain {
		text-decoration: none;
	}
	.two {
		display: grid;
		grid-template-columns: repeat(auto-fit, minmax(min(26rem, 100%), 1fr));
		gap: 1rem;
		align-items: start;
	}
	.beside {
		display: grid;
		grid-template-columns: minmax(0, 1fr);
		gap: 1rem;
	}
	h2 {
		margin-bottom: 0.5rem;
	}
	.said:not(:empty) {
		margin-bottom: 1rem;
	}
	.accept {
		margin-top: 0.5rem;
	}
	.below {
		margin-top: 1.6rem;
	}
	.below > ul {
		background: var(--card);
		border: 1px solid var(--line);
	}
	.plainly li,
	.below > ul li {
		display: grid;
		grid-template-columns: minmax(8rem, 1fr) minmax(0, 2fr) auto;
		gap: 0.1rem 1rem;
		padding: 0.45rem 0.9rem;
		border-bottom: 1px solid var(--line);
		align-items: baseline;
		overflow-wrap: anywhere;
	}
	.plainly li {
		padding-inline: 0;
	}
	.plainly li:last-child,
	.below > ul li:last-child {
		border-bottom: 0;
	}
	.paper {
		margin-top: 0.8rem;
	}
	.paper pre {
		white-space: pre-wrap;
		overflow-wrap: anywhere;
		margin-top: 0.5rem;
	}
	summary {
		color: light-dark(var(--color-primary-700), var(--color-primary-300));
		width: fit-content;
	}
	@media (max-width: 620px) {
		.plainly li,
		.below > ul li {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
