<?php

declare(strict_types=1);

namespace Seedledger;

use PDOException;

/** The installation in the browser: one address, the step in a hidden field, each step a small page. */
final class Setup
{
    private const NEEDED = ['pdo', 'mbstring', 'xml'];

    /** @var list<string> */
    private array $complaints = [];

    public function run(): void
    {
        session_name('ledger_setup');
        session_start();
        if (Settings::read() !== null && empty($_SESSION['done'])) {
            Html::page('No configuration necessary', '<p>This ledger is set up. <a href="staff">Staff</a></p>', 401);
            return;
        }
        $_SESSION['slip'] ??= bin2hex(random_bytes(12));
        $_SESSION['at'] ??= 'welcome';
        if ($_SERVER['REQUEST_METHOD'] === 'POST') {
            $this->take((string) ($_POST['_step'] ?? ''));
        }
        $this->show($_SESSION['at']);
    }

    private function take(string $step): void
    {
        if (!hash_equals($_SESSION['slip'], (string) ($_POST['_slip'] ?? '')) || $step !== $_SESSION['at']) {
            $this->complaints[] = 'This page was out of date; here is the one to go on with.';
            return;
        }
        $next = match ($step) {
            'welcome' => 'checks',
            'checks' => $this->stuck() ? 'checks' : 'database',
            'database' => $this->takeDatabase() ? 'tables' : 'database',
            'tables' => Database::missing(Database::open($_SESSION['database'])) === [] ? 'keeper' : 'tables',
            'keeper' => $this->takeKeeper() ? 'end' : 'keeper',
            default => $step,
        };
        $_SESSION['at'] = $next;
        // What a page says after a refusal is said at once; the rest after going there anew.
        if ($this->complaints === []) {
            header('Location: ' . strtok($_SERVER['REQUEST_URI'], '?'), true, 303);
            exit;
        }
    }

    /** @return list<array{string, bool, bool}> what, whether it is there, whether it is needed */
    private function checks(): array
    {
        $list = [['PHP 8.1', PHP_VERSION_ID >= 80100, true]];
        foreach (self::NEEDED as $name) {
            $list[] = ["ext-$name", extension_loaded($name), true];
        }
        $list[] = ['ext-pdo_pgsql or ext-pdo_mysql', extension_loaded('pdo_pgsql') || extension_loaded('pdo_mysql'), true];
        $list[] = ['ext-calendar', extension_loaded('calendar'), false];
        foreach (['config', 'var/cache', 'var/log'] as $folder) {
            $list[] = ["$folder/ may be written", is_writable(dirname(__DIR__) . "/$folder"), true];
        }
        return $list;
    }

    private function stuck(): bool
    {
        return array_filter($this->checks(), static fn(array $c): bool => $c[2] && !$c[1]) !== [];
    }

    private function takeDatabase(): bool
    {
        [$host, $port] = array_pad(explode(':', trim((string) ($_POST['server'] ?? '')), 2), 2, '0');
        $to = ['engine' => ($_POST['engine'] ?? '') === 'mysql' ? 'mysql' : 'pgsql', 'host' => $host, 'port' => (int) $port, 'name' => trim((string) ($_POST['base'] ?? '')),
            'user' => trim((string) ($_POST['login'] ?? '')), 'password' => (string) ($_POST['key'] ?? '')];
        $_SESSION['database'] = $to;
        try {
            Database::open($to);
        } catch (PDOException $fault) {
            $this->complaints[] = 'The database server says: ' . $fault->getMessage();
            return false;
        }
        return true;
    }

    private function takeKeeper(): bool
    {
        $get = static fn(string $name): string => trim((string) ($_POST[$name] ?? ''));
        if ($get('library') === '' || $get('name') === '') {
            $this->complaints[] = 'The library and its keeper need names.';
        }
        if (!filter_var($get('mail'), FILTER_VALIDATE_EMAIL)) {
            $this->complaints[] = 'The keeper needs an e-mail address.';
        }
        if (strlen((string) ($_POST['phrase'] ?? '')) < 12) {
            $this->complaints[] = 'The pass phrase needs 12 characters.';
        }
        if ($this->complaints !== []) {
            return false;
        }
        $to = $_SESSION['database'];
        Database::addKeeper(Database::open($to), $get('name'), $get('mail'), (string) $_POST['phrase']);
        $zone = in_array($get('zone'), timezone_identifiers_list(), true) ? $get('zone') : 'UTC';
        if (!Settings::write(['title' => $get('library'), 'time_zone' => $zone, 'secret' => bin2hex(random_bytes(32)), ...$to])) {
            $this->complaints[] = 'config/settings.php could not be written.';
            return false;
        }
        $_SESSION['done'] = true;
        return true;
    }

    private function show(string $step): void
    {
        $told = $this->complaints === [] ? '' : '<div class="messages error"><ul><li>' . implode('</li><li>', array_map([Html::class, 'e'], $this->complaints)) . '</li></ul></div>';
        [$title, $body] = match ($step) {
            'checks' => $this->checksPage(),
            'database' => $this->databasePage(),
            'tables' => $this->tablesPage(),
            'keeper' => $this->keeperPage(),
            'end' => $this->endPage(),
            default => ['Setting up a seed library', '<p>Seeds go out in spring and come back in autumn.</p>' . Html::form('welcome', $_SESSION['slip'], [['Language', '<select name="language"><option value="en">English</option></select>']], 'Save and continue')],
        };
        Html::page($title, $told . $body);
        if ($step === 'end') {
            session_destroy();
        }
    }

    /** @return array{string, string} */
    private function checksPage(): array
    {
        $rows = '';
        foreach ($this->checks() as [$what, $fine, $needed]) {
            $class = $fine ? 'status' : ($needed ? 'error' : 'warning');
            $rows .= "<dt class=\"$class\">" . Html::e($what) . '</dt><dd>' . ($fine ? 'Found' : ($needed ? 'Not found. The ledger cannot be set up without it.' : 'Not found. Sowing days by the moon will be missing.')) . '</dd>';
        }
        $list = "<dl class=\"report\">$rows</dl>";
        // Nothing to press while something is missing but to come again.
        return $this->stuck()
            ? ['Review of the server', $list . '<p><a href="">try again</a></p>']
            : ['Review of the server', $list . Html::form('checks', $_SESSION['slip'], [], 'Save and continue')];
    }

    /** @return array{string, string} */
    private function databasePage(): array
    {
        $had = $_SESSION['database'] ?? ['engine' => 'pgsql', 'host' => '', 'port' => 0, 'name' => 'seedledger', 'user' => '', 'password' => ''];
        $engines = '';
        foreach (['pgsql' => 'PostgreSQL', 'mysql' => 'MariaDB, MySQL'] as $value => $label) {
            $engines .= "<option value=\"$value\"" . ($had['engine'] === $value ? ' selected' : '') . ">$label</option>";
        }
        $text = static fn(string $name, string $value, string $type = 'text'): string => "<input type=\"$type\" name=\"$name\" value=\"" . Html::e($value) . '">';
        return ['Where the ledger is kept', Html::form('database', $_SESSION['slip'], [
            ['Engine', "<select name=\"engine\">$engines</select>"],
            ['Server, with a colon and its port if it has one of its own', $text('server', $had['host'] . ($had['port'] > 0 ? ":{$had['port']}" : ''))],
            ['Database', $text('base', $had['name'])],
            ['Login', $text('login', $had['user'])],
            ['Key', $text('key', '', 'password')],
        ], 'Save and continue')];
    }

    /** @return array{string, string} */
    private function tablesPage(): array
    {
        $to = $_SESSION['database'];
        $missing = Database::missing(Database::open($to));
        if ($missing === []) {
            return ['Tables', '<p>All ' . count(Database::TABLES) . ' tables are there.</p>' . Html::form('tables', $_SESSION['slip'], [], 'Save and continue')];
        }
        return ['Tables', '<p>These tables are not in the database ' . Html::e($to['name']) . ' yet: ' . implode(', ', $missing) . '.</p><p>Import <code>database/' . basename(Database::dump($to['engine']))
            . '</code> there. It makes a database of the name <code>seedledger</code>: where yours has another name, change the first lines.</p>' . Html::form('tables', $_SESSION['slip'], [], 'I have imported it')];
    }

    /** @return array{string, string} */
    private function keeperPage(): array
    {
        $zones = '';
        foreach (timezone_identifiers_list() as $zone) {
            $zones .= '<option' . ($zone === 'UTC' ? ' selected' : '') . ">$zone</option>";
        }
        $kept = static fn(string $name): string => "<input name=\"$name\" value=\"" . Html::e((string) ($_POST[$name] ?? '')) . '">';
        return ['The library and its keeper', Html::form('keeper', $_SESSION['slip'], [
            ['Name of the library', $kept('library')],
            ['Time zone', "<select name=\"zone\">$zones</select>"],
            ['Keeper', $kept('name')],
            ['Keeper’s e-mail', $kept('mail')],
            ['Pass phrase', '<input type="password" name="phrase" autocomplete="new-password">'],
        ], 'Open the ledger')];
    }

    /** @return array{string, string} */
    private function endPage(): array
    {
        return ['The ledger is open', '<p>config/settings.php is written and locked. Edit <code>host_pattern</code> in it before you go on: the ledger answers to no other names.</p><p><a href="staff">Go to the staff pages</a></p>'];
    }
}
