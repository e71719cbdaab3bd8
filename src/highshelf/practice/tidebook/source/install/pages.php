<?php

declare(strict_types=1);

function slip(): string
{
    return '<input type="hidden" name="slip" value="' . $_SESSION['slip'] . '">';
}

function language_page(): void
{
    page('Welcome to Tidebook', '<p>A diary for everybody who crosses the water.</p><form method="post" action="?step=language">' . slip()
        . '<label for="tongue">Language</label><select id="tongue" name="tongue"><option value="en">English</option>'
        . '<option value="de">Deutsch</option><option value="fr">Français</option><option value="es">Español</option></select>'
        . '<p><button>Begin</button></p></form>');
}

/** @return list<array{label:string,must:bool,fine:bool,seen:string}> */
function requirements(): array
{
    $root = dirname(__DIR__);
    $list = [['label' => 'PHP 8.0 or newer', 'must' => true, 'fine' => PHP_VERSION_ID >= 80000, 'seen' => PHP_VERSION]];
    foreach (['pdo_mysql' => true, 'mbstring' => true, 'json' => true, 'gd' => false, 'imagick' => false] as $name => $must) {
        $list[] = ['label' => "Extension $name", 'must' => $must, 'fine' => extension_loaded($name), 'seen' => extension_loaded($name) ? 'there' : 'missing'];
    }
    foreach (['data' => "$root/data", 'the folder of Tidebook (for settings.php)' => $root] as $label => $path) {
        $list[] = ['label' => "Write into $label", 'must' => true, 'fine' => is_writable($path), 'seen' => is_writable($path) ? 'yes' : 'no'];
    }
    return $list;
}

function checks_page(array $checks, bool $stuck): void
{
    $rows = '';
    foreach ($checks as $c) {
        $class = $c['fine'] ? 'good' : ($c['must'] ? 'bad' : 'soso');
        $rows .= '<tr><td>' . e($c['label']) . '</td><td>' . ($c['must'] ? 'required' : 'recommended') . '</td><td class="' . $class . '">' . e($c['seen']) . '</td></tr>';
    }
    page('Is everything here?', '<table><tr><th>What</th><th>How much it matters</th><th>Found</th></tr>' . $rows . '</table>'
        . ($stuck ? '<p class="complaint">Something required is missing. Mend it, then look again.</p><p><a href="?step=checks">Look again</a></p>' : '')
        . '<form method="post" action="?step=checks">' . slip() . '<p><button' . ($stuck ? ' disabled' : '') . '>Go on</button></p></form>');
}

/** @return list<string> */
function take_keeper(): array
{
    $complaints = [];
    $get = fn(string $key): string => trim((string) ($_POST[$key] ?? ''));
    if ($get('diary') === '') {
        $complaints[] = 'The diary needs a title.';
    }
    if (!preg_match('/^[A-Za-z][A-Za-z0-9_.-]{2,30}$/', $get('keeper'))) {
        $complaints[] = 'The keeper’s name has 3 to 31 letters and digits.';
    }
    if (strlen((string) ($_POST['word'] ?? '')) < 10) {
        $complaints[] = 'The password has at least 10 characters.';
    }
    if (($_POST['word'] ?? '') !== ($_POST['again'] ?? '')) {
        $complaints[] = 'The passwords do not match.';
    }
    if (!filter_var($get('post'), FILTER_VALIDATE_EMAIL)) {
        $complaints[] = 'This is not an e-mail address.';
    }
    $_SESSION['keeper'] = ['diary' => $get('diary'), 'name' => $get('keeper'), 'word' => (string) ($_POST['word'] ?? ''), 'post' => $get('post')];
    return $complaints;
}

function keeper_page(array $complaints): void
{
    $k = $_SESSION['keeper'] ?? ['diary' => '', 'name' => '', 'post' => ''];
    $list = $complaints ? '<ul class="complaint" role="alert"><li>' . implode('</li><li>', array_map('e', $complaints)) . '</li></ul>' : '';
    page('Who keeps the diary?', $list . '<form method="post" action="?step=keeper">' . slip()
        . '<label for="diary">Title of the diary</label><input id="diary" name="diary" value="' . e($k['diary']) . '">'
        . '<label for="keeper">Keeper’s name (administrator)</label><input id="keeper" name="keeper" value="' . e($k['name']) . '">'
        . '<label for="word">Password</label><input type="password" id="word" name="word">'
        . '<label for="again">Password once more</label><input type="password" id="again" name="again">'
        . '<label for="post">E-mail address</label><input type="email" id="post" name="post" value="' . e($k['post']) . '">'
        . '<p><button>Go on</button> <a href="?step=checks">Back</a></p></form>');
}

/** Connect, make the tables, write settings.php. Returns a complaint, or '' when all is done. */
function install(): string
{
    $get = fn(string $key): string => trim((string) ($_POST[$key] ?? ''));
    $database = ['host' => $get('host'), 'port' => (int) ($get('port') ?: 3306), 'name' => $get('base'), 'user' => $get('who'), 'password' => (string) ($_POST['pass'] ?? ''), 'prefix' => $get('prefix')];
    if (!preg_match('/^[a-z][a-z0-9_]{0,12}$/i', $database['prefix'])) {
        return 'The prefix has letters, digits and underscores.';
    }
    try {
        $db = connect($database);
        $p = $database['prefix'];
        $db->exec("CREATE TABLE {$p}keepers (name VARCHAR(40) PRIMARY KEY, secret VARCHAR(255) NOT NULL, post VARCHAR(190) NOT NULL) CHARACTER SET utf8mb4");
        $db->exec("CREATE TABLE {$p}entries (id INT AUTO_INCREMENT PRIMARY KEY, visitor VARCHAR(190) NOT NULL, words TEXT NOT NULL, written DATE NOT NULL) CHARACTER SET utf8mb4");
        $db->exec("CREATE TABLE {$p}facts (label VARCHAR(60) PRIMARY KEY, value TEXT NOT NULL) CHARACTER SET utf8mb4");
        $k = $_SESSION['keeper'];
        $db->prepare("INSERT INTO {$p}keepers VALUES (?, ?, ?)")->execute([$k['name'], password_hash($k['word'], PASSWORD_DEFAULT), $k['post']]);
        $code = strtoupper(implode('-', str_split(bin2hex(random_bytes(8)), 4)));
        $db->prepare("INSERT INTO {$p}facts VALUES ('recovery', ?), ('version', '1.4.2')")->execute([password_hash($code, PASSWORD_DEFAULT)]);
    } catch (PDOException $fault) {
        return 'The database says: ' . $fault->getMessage();
    }
    $settings = ['title' => $k['diary'], 'language' => $_SESSION['language'] ?? 'en', 'secret' => bin2hex(random_bytes(32)), 'database' => $database, 'folders' => ['pictures' => 'data']];
    if (file_put_contents(dirname(__DIR__) . '/settings.php', "<?php\n\nreturn " . var_export($settings, true) . ";\n") === false) {
        return 'settings.php could not be written.';
    }
    $_SESSION['code'] = $code;
    unset($_SESSION['keeper']['word']);
    return '';
}

function database_page(string $complaint): void
{
    $old = fn(string $key, string $else): string => e((string) ($_POST[$key] ?? $else));
    page('Where are the entries kept?', ($complaint !== '' ? '<p class="complaint" role="alert">' . e($complaint) . '</p>' : '')
        . '<form method="post" action="?step=database">' . slip()
        . '<label for="host">Database server</label><input id="host" name="host" value="' . $old('host', 'localhost') . '">'
        . '<label for="port">Port</label><input id="port" name="port" value="' . $old('port', '3306') . '">'
        . '<label for="base">Name of the database</label><input id="base" name="base" value="' . $old('base', '') . '">'
        . '<label for="who">User</label><input id="who" name="who" value="' . $old('who', '') . '">'
        . '<label for="pass">Password</label><input type="password" id="pass" name="pass">'
        . '<label for="prefix">Prefix of the tables</label><input id="prefix" name="prefix" value="' . $old('prefix', 'tb_') . '">'
        . '<p><button>Install Tidebook</button> <a href="?step=keeper">Back</a></p></form>');
}

function finish_page(?string $code): void
{
    $shown = $code === null ? '<p>The recovery code was shown once and is not shown again.</p>'
        : '<p>Your recovery code, shown only this once. Write it down:</p><p><code>' . e($code) . '</code></p>';
    page('Tidebook is ready', '<p>The installation is complete.</p>' . $shown
        . '<p>Now remove the folder <em>install</em>: the diary stays closed while it is there.</p><p><a href="../">To the diary</a> <a href="../staff/">Staff entrance</a></p>');
}
