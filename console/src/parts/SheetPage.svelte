<script lang="ts">
	import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
	import { momentOf } from '../lib/say';
	import { navigate, p } from '../router';
	import { Reveal } from '../state/reveal.svelte';
	import Confirm from './Confirm.svelte';
	import Facts from './Facts.svelte';
	import Fault from './Fault.svelte';
	import Head from './Head.svelte';
	import HostSettings from './HostSettings.svelte';
	import Inspect from './Inspect.svelte';
	import Recheck from './Recheck.svelte';
	import SaveSheet from './SaveSheet.svelte';
	import Secret from './Secret.svelte';
	import Undo from './Undo.svelte';

	let { id }: { id: string } = $props();
	interface Told {
		leg: string;
		act: string;
		told: string;
	}
	let one = $state.raw<Schemas['InstallationOut'] | null>(null);
	let account = $state.raw<Schemas['AccountOut'] | null>(null);
	const beside = $derived(String(one?.facts['beside'] ?? ''));
	let asked: Schemas['RevealOut'][] = $state.raw([]);
	let forget: Confirm | undefined = $state();
	let undo: Undo | undefined = $state();
	let restore: Undo | undefined = $state();
	let saving: SaveSheet | undefined = $state();
	let fault = $state.raw<FaultBody | null>(null);
	let refused = $state.raw<FaultBody | null>(null);
	// The page is made anew for another installation.
	// svelte-ignore state_referenced_locally
	const secrets = new Reveal(id, () => void looks());

	$effect(() => {
		void load();
		return () => secrets.hide();
	});

	async function load(): Promise<void> {
		try {
			one = await done(api.GET('/api/v1/installations/{number}', { params: { path: { number: id } } }));
			account = await done(api.GET('/api/v1/accounts/{name}', { params: { path: { name: one.account } } }));
			fault = null;
			await looks();
		} catch (reason) {
			fault = faultOf(reason);
		}
	}
	async function looks(): Promise<void> {
		const query = { limit: 8 };
		asked = (
			await done(
				api.GET('/api/v1/installations/{number}/reveals', { params: { path: { number: id }, query } }),
			)
		).items;
	}
	async function show(name: string): Promise<void> {
		refused = null;
		try {
			await secrets.show(name);
		} catch (reason) {
			refused = faultOf(reason);
		}
	}
	async function letGo(): Promise<void> {
		await done(api.DELETE('/api/v1/installations/{number}', { params: { path: { number: id } } }));
		navigate('/installations');
	}
	const facts = $derived((one?.facts ?? {}) as Record<string, unknown>);
	const text = (name: string): string => (typeof facts[name] === 'string' ? facts[name] : '');
	const acts = $derived((Array.isArray(facts.acts) ? facts.acts : []) as Told[]);
	const shown = $derived((Array.isArray(facts.shown) ? facts.shown : []) as string[]);
	const once = $derived(Object.entries((facts.once ?? {}) as Record<string, string>));
	const has = (name: string): boolean => one?.credentials.includes(name) ?? false;
	const told = (legs: string[], not: string[] = []): string[] =>
		acts.filter((a) => a.told && legs.includes(a.leg) && !not.includes(a.act)).map((a) => a.told);
	const lists = $derived([
		{
			title: 'Proven',
			items: [
				...told(['prove'], ['register', 'door', 'stand']),
				...acts.filter((a) => a.act === 'count-tables' && one?.database).map((a) => a.told),
			],
		},
		{ title: 'Tidied', items: told(['tidy'], ['count-tables']) },
		{
			title: 'Brought there',
			items: told(['place', 'database', 'configure', 'walk'], ['hold', 'drop-archive', 'values']),
		},
	]);
</script>

<Head
	title={one ? text('title') || one.application : 'Installation'}
	above="Installations"
	up={p('/installations')}
>
	{#if one}<p class="quiet">
			{one.application}
			{one.version} for {account?.title ?? one.account}, since {momentOf(one.created_at)}{one.replaced_by
				? `; replaced by ${one.replaced_by}, nothing of it stands any more`
				: ''}
			{#if one.taken_back}<strong>Taken back {momentOf(one.taken_back.at)}.</strong>{/if}
		</p>{/if}
	{#snippet aside()}
		{#if one}
			{#if secrets.left > 0}
				<span class="left" role="timer">hidden again in {secrets.left} s</span>
				<button class="btn btn-lesser" type="button" onclick={() => secrets.hide()}>Hide now</button>
			{:else}
				<button class="btn btn-lesser" type="button" onclick={() => void show('all')}>Show all secrets</button
				>
			{/if}
			<button class="btn btn-lesser" type="button" onclick={() => saving?.ask()}>Save the sheet</button>
			{#if one.taken_back?.kept_in}
				<button class="btn btn-lesser" type="button" onclick={() => restore?.ask()}>Bring it back</button>
			{/if}
			{#if !one.replaced_by && (!one.taken_back || one.taken_back.kept_in || one.taken_back.left.length)}
				<button class="btn btn-lesser" type="button" onclick={() => undo?.ask()}
					>{one.taken_back?.kept_in ? 'Remove what is kept' : 'Undo it'}</button
				>
			{/if}
			<button class="btn btn-lesser" type="button" onclick={() => forget?.ask()}>Forget it</button>
		{/if}
	{/snippet}
</Head>
{#if fault}<Fault {fault} again={() => void load()} />{/if}
{#if refused}<div class="gap"><Fault fault={refused} /></div>{/if}
{#if one}
	{#if facts.published_login}
		<p class="gap todo">
			<strong>To do now:</strong> the application still has the login its maker publishes. Sign in and change the
			password before anybody else does.
		</p>
	{/if}
	{#if text('installer_kept')}
		<p class="gap todo">
			<strong>To do:</strong> the application does not work without {text('installer_kept')}, so it is still
			there.
		</p>
	{/if}
	{#if shown.length}
		<p class="gap todo">
			<strong>To do:</strong> anybody can fetch {shown.join(', ')}: the web server takes no rule against that
			from here. Ask the host to deny it.
		</p>
	{/if}
	{#if facts.lists}
		<p class="gap todo">
			<strong>To do:</strong> the web server lists what is in folders without a front page. Turn that off, or ask
			the host to.
		</p>
	{/if}
	{#if one.taken_back?.kept_in}
		<p class="gap todo">
			It was taken down, and can be brought back: its files are kept in <span class="code"
				>{one.taken_back.kept_in}</span
			>
			on the host, its database stays.
		</p>
	{/if}
	{#if one.taken_back?.left.length}
		<p class="gap todo">Still there: {one.taken_back.left.join(', ')}. Undo it again when that is mended.</p>
	{/if}
	<section class="card-paper gap" aria-labelledby="addresses">
		<h2 id="addresses">Addresses</h2>
		<Facts
			facts={[
				{ name: 'Site', value: one.address, href: one.address },
				{ name: 'Administration', value: one.login_address, href: one.login_address },
				{
					name: 'Reached at',
					value: account?.reach ?? '',
					code: true,
					note: 'the name does not lead there by itself yet: a browser has to be told',
				},
				{
					name: 'On the host',
					value: one.target,
					code: true,
					note: beside === '' ? '' : `the rest of the release stands above it, in ${beside}`,
				},
				{ name: 'Panel', value: account?.panel ?? '', href: account?.panel },
			]}
		/>
	</section>
	<section class="sets gap" aria-label="Credentials">
		<div class="card-paper">
			<h2>Application</h2>
			{#if facts.no_administrator}
				<p>None: this application has no administrator of its own.</p>
			{:else}
				<dl>
					<dt>Administrator</dt>
					<dd class="code">{one.admin_name}</dd>
					<dt>Password</dt>
					<dd>
						<Secret
							text={secrets.shown.application}
							show={() => void show('application')}
							what="the application's password"
						/>
					</dd>
				</dl>
			{/if}
		</div>
		<div class="card-paper">
			<h2>Database</h2>
			{#if one.database}
				<dl>
					<dt>Server</dt>
					<dd class="code">{text('database_host')}</dd>
					<dt>Name</dt>
					<dd class="code">{one.database}</dd>
					<dt>User</dt>
					<dd class="code">{one.database_user}</dd>
					<dt>Password</dt>
					<dd>
						<Secret
							text={secrets.shown.database}
							show={() => void show('database')}
							what="the database's password"
						/>
					</dd>
				</dl>
			{:else}<p class="quiet">None: this application keeps its data in files.</p>{/if}
		</div>
		<div class="card-paper">
			<h2>Hosting</h2>
			<dl>
				<dt>Transfer</dt>
				<dd class="code">{account?.transfer ?? one.account}</dd>
				<dt>Password</dt>
				<dd>
					<Secret
						text={secrets.shown.hosting}
						show={() => void show('hosting')}
						what="the hosting password"
					/>
				</dd>
				{#if account?.panel_login}
					<dt>Panel login</dt>
					<dd>
						<span class="code">{account.panel_login}</span>{#if !has('panel')}<span class="quiet small gapped"
								>the same password</span
							>{/if}
					</dd>
				{/if}
				{#if has('panel')}
					<dt>Panel password</dt>
					<dd>
						<Secret text={secrets.shown.panel} show={() => void show('panel')} what="the panel's password" />
					</dd>
				{/if}
			</dl>
		</div>
		{#if once.length}
			<div class="card-paper">
				<h2>Shown only once by the installer</h2>
				<dl>
					{#each once as [key, label] (key)}
						<dt>{label}</dt>
						<dd>
							<Secret
								text={secrets.shown[`once-${key}`]}
								show={() => void show(`once-${key}`)}
								what={label}
							/>
						</dd>
					{/each}
				</dl>
			</div>
		{/if}
	</section>
	<div class="gap"><HostSettings {id} /></div>
	<div class="gap"><Recheck {one} again={load} /></div>
	<div class="gap"><Inspect {id} /></div>
	<div class="lists">
		{#each lists as list (list.title)}
			<section>
				<h2>{list.title}</h2>
				<ul>
					{#each list.items as item, index (index)}<li>{item}</li>{/each}
				</ul>
			</section>
		{/each}
		<section>
			<h2>Versions</h2>
			<Facts
				facts={[
					{ name: 'Application', value: `${one.application} ${one.version}` },
					{ name: 'PHP', value: text('php') || 'unknown' },
					{ name: 'Database server', value: one.database ? text('database_version') || 'unknown' : '' },
				]}
			/>
			<p class="small"><a href={p('/jobs/:id', { params: { id: one.job } })}>The job that installed it</a></p>
		</section>
		<section>
			<h2>Who saw its secrets</h2>
			{#if asked.length}
				<ul class="asked">
					{#each asked as look, index (index)}<li>{momentOf(look.at)}: {look.who} saw {look.what}</li>{/each}
				</ul>
			{:else}<p class="quiet">Nobody asked yet.</p>{/if}
		</section>
	</div>
	<Undo bind:this={undo} {one} way={one.taken_back?.kept_in ? 'remove' : 'undo'} />
	{#if one.taken_back?.kept_in}<Undo bind:this={restore} {one} way="restore" />{/if}
	<SaveSheet bind:this={saving} {id} saved={async (revealed) => (revealed ? looks() : undefined)} />
	<Confirm
		bind:this={forget}
		title="Forget {one.application} at {one.address}?"
		text="It leaves the books, and its passwords leave the strongbox for good: save the sheet with passwords first. The site stays as it is."
		word="Forget it"
		act={letGo}
	/>
{:else if !fault}<p class="quiet">Looking…</p>{/if}

<style>
	.gap {
		margin-bottom: 1rem;
	}
	h2 {
		margin-bottom: 0.45rem;
	}
	.todo {
		border-left: 4px solid var(--fail);
		background: var(--card);
		padding: 0.6rem 0.9rem;
	}
	.sets {
		display: grid;
		grid-template-columns: repeat(auto-fit, minmax(min(19rem, 100%), 1fr));
		gap: 1rem;
	}
	dt {
		color: var(--soft);
		font-size: 0.8125rem;
		margin-top: 0.35rem;
	}
	dd {
		overflow-wrap: anywhere;
	}
	.gapped {
		margin-left: 0.5rem;
	}
	.left {
		color: var(--heed);
		font-weight: 600;
		font-variant-numeric: tabular-nums;
	}
	.lists {
		display: grid;
		grid-template-columns: repeat(auto-fit, minmax(min(26rem, 100%), 1fr));
		gap: 1.3rem 2rem;
	}
	.lists li {
		padding: 0.12rem 0 0.12rem 0.8rem;
		border-left: 2px solid var(--line);
		margin-bottom: 0.2rem;
		overflow-wrap: anywhere;
	}
</style>
