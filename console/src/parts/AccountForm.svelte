<script lang="ts">
	import { faultOf, type FaultBody, type Schemas } from '../api/calls';
	import { KINDS, compose, nameFrom, parse, type Kind } from '../lib/transfer';
	import Fault from './Fault.svelte';
	import Field from './Field.svelte';

	type Account = Schemas['AccountOut'];
	export interface Given {
		name: string;
		title: string;
		transfer: string;
		root: string;
		address: string;
		reach: string;
		panel: string;
		panel_login: string;
		database_host: string;
		email: string;
		helper: boolean;
		pace_kb: number;
		agent: boolean;
		password: string;
		key: string;
		passphrase: string;
		panel_password: string;
		fingerprint: string;
		confirm_server: boolean;
	}
	interface Props {
		account?: Account;
		/** What the form starts with for a new account, such as what a letter says. */
		start?: Partial<Given>;
		word: string;
		keep: (given: Given) => Promise<void>;
		leave?: () => void;
	}
	let { account, start: given, word, keep, leave }: Props = $props();

	const id = $props.id();
	// The form starts from the account as it was when it was opened.
	// svelte-ignore state_referenced_locally
	const before = account;
	// svelte-ignore state_referenced_locally
	const first: Partial<Given> = account ?? given ?? {};
	const start = parse(first.transfer ?? '');
	let title = $state(first.title ?? '');
	let name = $state(first.name ?? '');
	let named = $state(Boolean(first.name));
	let kind: Kind = $state(start.kind);
	let host = $state(start.host);
	let port = $state(start.port);
	let login = $state(start.login);
	let password = $state(first.password ?? '');
	let key = $state('');
	let passphrase = $state('');
	let agent = $state(first.agent ?? false);
	let databaseHost = $state(first.database_host ?? 'localhost');
	let root = $state(first.root ?? '');
	let address = $state(first.address ?? '');
	let reach = $state(first.reach ?? '');
	let panel = $state(first.panel ?? '');
	let panelLogin = $state(first.panel_login ?? '');
	let panelPassword = $state(first.panel_password ?? '');
	let email = $state(first.email ?? '');
	let helper = $state(first.helper ?? true);
	let fingerprint = $state(first.fingerprint ?? '');
	let confirmServer = $state(first.confirm_server ?? false);
	let paceKb = $state(first.pace_kb ? String(first.pace_kb) : '');
	let tried = $state(false);
	let busy = $state(false);
	let fault = $state.raw<FaultBody | null>(null);
	let form: HTMLFormElement | undefined = $state();

	const empty = (value: string, what: string): string =>
		tried && !value.trim() ? `${what} is missing.` : '';
	const wrong = $derived({
		name:
			tried && !/^[a-z0-9][a-z0-9-]{0,39}$/.test(name)
				? 'Small letters, digits and hyphens, 40 at the most, beginning with a letter or digit.'
				: '',
		host: empty(host, 'The server'),
		login: empty(login, 'The login'),
		password:
			tried && !before && !password && !key && !agent ? 'A password is needed, or a private key.' : '',
		address:
			tried && !/^https?:\/\/\S+/.test(address.trim())
				? 'A web address, beginning with https:// or http://.'
				: '',
		panel: tried && panel && !/^https?:\/\/\S+/.test(panel.trim()) ? 'A web address, or nothing.' : '',
		reach:
			tried && reach && !/^\S+:\d+$/.test(reach.trim())
				? 'Server and port, such as 192.0.2.7:443, or nothing.'
				: '',
	});

	function choose(chosen: Kind): void {
		if (port === KINDS[kind].port || !port) port = KINDS[chosen].port;
		kind = chosen;
	}

	async function send(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		tried = true;
		fault = null;
		if (Object.values(wrong).some(Boolean)) {
			requestAnimationFrame(() => form?.querySelector<HTMLElement>('[aria-invalid=true]')?.focus());
			return;
		}
		busy = true;
		try {
			await keep({
				name,
				title: title.trim(),
				transfer: compose({ kind, host, port, login }),
				root: root.trim(),
				address: address.trim(),
				reach: reach.trim(),
				panel: panel.trim(),
				panel_login: panelLogin.trim(),
				database_host: databaseHost.trim(),
				email: email.trim(),
				helper,
				pace_kb: Math.max(0, Math.round(Number(paceKb) || 0)),
				agent: kind === 'sftp' && agent,
				password,
				key: kind === 'sftp' ? key : '',
				passphrase: kind === 'sftp' ? passphrase : '',
				panel_password: panelPassword,
				fingerprint: fingerprint.trim(),
				confirm_server: confirmServer,
			});
		} catch (reason) {
			fault = faultOf(reason);
		} finally {
			busy = false;
		}
	}
</script>

<form bind:this={form} onsubmit={send} novalidate autocomplete="off">
	<fieldset>
		<legend>Whose account</legend>
		<div class="pair">
			<Field
				label="Title"
				bind:value={title}
				hint="Becomes the title of sites, unless a plan says another."
				oninput={() => {
					if (!named) name = nameFrom(title);
				}}
			/>
			<Field
				label="Short name"
				bind:value={name}
				required
				readonly={before !== undefined}
				spellcheck="false"
				autocapitalize="none"
				wrong={wrong.name}
				oninput={() => (named = true)}
				hint={before ? 'Stays as it is.' : 'What you call it in lists and on the command line.'}
			/>
		</div>
	</fieldset>
	<fieldset>
		<legend>File transfer</legend>
		<div class="pair thirds">
			<div>
				<label class="label" for="{id}-kind">Kind</label>
				<select
					id="{id}-kind"
					class="field"
					value={kind}
					onchange={(event) => choose(event.currentTarget.value as Kind)}
					aria-describedby="{id}-about"
				>
					{#each Object.entries(KINDS) as [value, known] (value)}<option {value}>{known.title}</option>{/each}
				</select>
			</div>
			<Field
				label="Server"
				bind:value={host}
				required
				spellcheck="false"
				autocapitalize="none"
				wrong={wrong.host}
				placeholder="ftp.saltmarsh.example"
			/>
			<Field label="Port" bind:value={port} required inputmode="numeric" />
		</div>
		<p id="{id}-about" class="small quiet">{KINDS[kind].about}</p>
		<div class="pair">
			<Field
				label="Login"
				bind:value={login}
				required
				spellcheck="false"
				autocapitalize="none"
				autocomplete="off"
				wrong={wrong.login}
			/>
			<Field
				label="Password"
				bind:value={password}
				type="password"
				required={!before && !key && !agent}
				autocomplete="new-password"
				wrong={wrong.password}
				placeholder={before ? 'stays as it is' : ''}
				hint="Sealed at once; shown only when somebody asks, which is recorded."
			/>
		</div>
		<details open={fingerprint !== '' && !before}>
			<summary>The server's identity</summary>
			<Field
				label="Fingerprint, as the host's letter has it"
				bind:value={fingerprint}
				spellcheck="false"
				autocapitalize="none"
				placeholder="SHA256:…"
				hint="Compared before the password is sent. Empty: what the first check sees is kept, and compared from then on."
			/>
			<label class="check">
				<input type="checkbox" class="checkbox" bind:checked={confirmServer} />
				<span>Show a server that is not known yet, and send it nothing before somebody says yes.</span>
			</label>
		</details>
		{#if kind === 'sftp'}
			<details>
				<summary>A private key instead of a password</summary>
				<label class="label" for="{id}-key">Private key, its whole text</label>
				<textarea
					id="{id}-key"
					class="field code"
					rows="4"
					bind:value={key}
					spellcheck="false"
					autocomplete="off"></textarea>
				<div class="pair">
					<Field
						label="Passphrase of the key"
						bind:value={passphrase}
						type="password"
						autocomplete="new-password"
						hint="Only when the key has one."
					/>
					<label class="check">
						<input type="checkbox" class="checkbox" bind:checked={agent} />
						<span>The service's own SSH agent opens the login; no secret is kept here.</span>
					</label>
				</div>
			</details>
		{/if}
	</fieldset>
	<fieldset>
		<legend>Site</legend>
		<div class="pair">
			<Field
				label="Document root"
				bind:value={root}
				spellcheck="false"
				autocapitalize="none"
				hint="The folder whose files the web shows, as the login sees it; a single dot when the login lands in it. Looked for when it stays empty."
			/>
			<Field
				label="Address"
				bind:value={address}
				required
				type="url"
				spellcheck="false"
				wrong={wrong.address}
				placeholder="https://choir.saltmarsh.example/"
				hint="What shows that folder: the domain, or the host's temporary address."
			/>
		</div>
		<details open={reach !== ''}>
			<summary>The domain does not lead there yet</summary>
			<Field
				label="Reached at"
				bind:value={reach}
				spellcheck="false"
				wrong={wrong.reach}
				placeholder="192.0.2.7:443"
				hint="Server and port to connect to instead of what the name resolves to today. The site is spoken to by its real name all the same."
			/>
		</details>
	</fieldset>
	<fieldset>
		<legend>Control panel</legend>
		<div class="pair thirds even">
			<Field
				label="Panel address"
				bind:value={panel}
				type="url"
				spellcheck="false"
				wrong={wrong.panel}
				hint="Databases are made there. Without it a job asks for a database that you made by hand."
			/>
			<Field
				label="Panel login"
				bind:value={panelLogin}
				spellcheck="false"
				autocapitalize="none"
				autocomplete="off"
				hint="Often a customer number. Empty: the transfer login."
			/>
			<Field
				label="Panel password"
				bind:value={panelPassword}
				type="password"
				autocomplete="new-password"
				placeholder={before ? 'stays as it is' : ''}
				hint="Empty: the same as the transfer password."
			/>
		</div>
	</fieldset>
	<fieldset>
		<legend>Habits</legend>
		<div class="pair">
			<Field
				label="E-mail of the sites' keeper"
				bind:value={email}
				type="email"
				hint="Where applications write to their administrator. Without it a job asks when an installer wants one."
			/>
			<Field
				label="Database host"
				bind:value={databaseHost}
				spellcheck="false"
				autocapitalize="none"
				hint="How PHP there calls the database server: mostly localhost; with :port if the letter names one."
			/>
			<Field
				label="At most, kB a second"
				type="number"
				min="0"
				bind:value={paceKb}
				hint="Out of politeness towards a slow host; left empty, as fast as the line is."
			/>
		</div>
		<label class="check">
			<input type="checkbox" class="checkbox" bind:checked={helper} />
			<span>
				A small PHP file may help on this account
				<span class="small quiet">
					Where there is no shell, it unpacks and compares on the host in seconds what would take minutes over
					the line. It bears an unguessable name, obeys signed requests only, and is removed after each use.
				</span>
			</span>
		</label>
	</fieldset>
	{#if fault}<Fault {fault} />{/if}
	<div class="ways">
		<button class="btn btn-act" type="submit" disabled={busy}>{busy ? 'One moment…' : word}</button>
		{#if leave}<button class="btn btn-lesser" type="button" onclick={leave}>Leave it as it is</button>{/if}
	</div>
</form>

<style>
	form {
		display: grid;
		grid-template-columns: minmax(0, 1fr);
		gap: 1rem;
		max-width: 56rem;
	}
	fieldset {
		grid-template-columns: minmax(0, 1fr);
		background: var(--card);
		border: 1px solid var(--line);
		padding: 0.5rem 1.1rem 1.1rem;
		display: grid;
		gap: 0.7rem;
		min-width: 0;
	}
	legend {
		font-weight: 680;
		padding: 0 0.4rem;
		margin-left: -0.4rem;
	}
	.pair {
		display: grid;
		grid-template-columns: repeat(2, minmax(0, 1fr));
		gap: 0.9rem 1.2rem;
	}
	.thirds {
		grid-template-columns: 11rem minmax(0, 1fr) 7rem;
	}
	.thirds.even {
		grid-template-columns: repeat(3, minmax(0, 1fr));
	}
	.label {
		display: block;
		font-weight: 600;
		margin-bottom: 0.2rem;
	}
	summary {
		color: light-dark(var(--color-primary-700), var(--color-primary-300));
		width: fit-content;
	}
	details[open] summary {
		margin-bottom: 0.5rem;
	}
	.check {
		display: grid;
		grid-template-columns: auto 1fr;
		gap: 0.6rem;
		align-items: start;
		font-weight: 600;
	}
	.check span span {
		display: block;
		font-weight: 400;
	}
	.checkbox {
		margin-top: 0.2rem;
	}
	.ways {
		display: flex;
		flex-wrap: wrap;
		gap: 0.7rem;
	}
	@media (max-width: 700px) {
		.pair,
		.thirds,
		.thirds.even {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
