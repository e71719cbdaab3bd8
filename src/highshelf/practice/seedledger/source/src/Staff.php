<?php

declare(strict_types=1);

namespace Seedledger;

/** The staff's pages: signing in, the shelf of seeds, the status report. */
final class Staff
{
    /** @param array<string, mixed> $settings */
    public function __construct(private readonly array $settings)
    {
        session_name('ledger');
        session_start();
        $_SESSION['slip'] ??= bin2hex(random_bytes(12));
    }

    public function run(string $page): void
    {
        $told = $_SERVER['REQUEST_METHOD'] === 'POST' ? $this->take() : '';
        if (!isset($_SESSION['keeper'])) {
            $this->door($told);
        } elseif ($page === '/staff/status') {
            $this->status();
        } else {
            Html::page('Seeds on the shelf', '<p>Keeper: ' . Html::e($_SESSION['keeper']) . '</p><p><a href="staff/status">Status report</a></p>' . $this->form([], 'out', 'Sign out'));
        }
    }

    /** @param list<array{string, string}> $rows */
    private function form(array $rows, string $step, string $button): string
    {
        return Html::form($step, $_SESSION['slip'], $rows, $button);
    }

    private function take(): string
    {
        if (!hash_equals($_SESSION['slip'], (string) ($_POST['_slip'] ?? ''))) {
            return 'This page was out of date.';
        }
        if ($_POST['_step'] === 'out') {
            unset($_SESSION['keeper']);
            return '';
        }
        $find = Database::open($this->settings['database'])->prepare('SELECT login, secret FROM ledger_keeper WHERE login = ?');
        $find->execute([(string) ($_POST['name'] ?? '')]);
        $row = $find->fetch();
        if (!$row || !password_verify((string) ($_POST['phrase'] ?? ''), $row['secret'])) {
            return 'Unrecognised keeper or pass phrase.';
        }
        session_regenerate_id(true);
        $_SESSION['keeper'] = $row['login'];
        return '';
    }

    private function door(string $told): void
    {
        $shown = $told === '' ? '' : '<div class="messages error">' . Html::e($told) . '</div>';
        Html::page('Staff', $shown . $this->form([['Keeper', '<input name="name" autocomplete="username">'], ['Pass phrase', '<input type="password" name="phrase" autocomplete="current-password">']], 'in', 'Sign in'));
    }

    private function status(): void
    {
        $rows = [
            ['Calendar', extension_loaded('calendar'), 'The PHP extension calendar is not switched on: sowing days by the moon are missing.'],
            ['Time zone', ini_get('date.timezone') === $this->settings['time_zone'], 'PHP’s own time zone (date.timezone) is ' . Html::e(ini_get('date.timezone')) . ', the library’s another one: nightly letters go out at the wrong hour.'],
            ['Settings', (fileperms(Settings::file()) & 0222) === 0, 'config/settings.php is not locked (mode 440).'],
            ['Names', ($this->settings['host_pattern'] ?? '') !== '', 'host_pattern is empty: the ledger answers to every name.'],
        ];
        $list = '';
        foreach ($rows as [$what, $fine, $complaint]) {
            $list .= '<dt class="' . ($fine ? 'status' : 'error') . '">' . $what . '</dt><dd>' . ($fine ? 'In order' : $complaint) . '</dd>';
        }
        $bad = count(array_filter($rows, static fn(array $r): bool => !$r[1]));
        Html::page('Status report', '<p>' . ($bad === 0 ? 'Everything is in order.' : "$bad of " . count($rows) . ' lines want attention.') . "</p><dl class=\"report\">$list</dl>");
    }
}
