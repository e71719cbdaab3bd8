<?php

declare(strict_types=1);
require __DIR__ . '/../lib/book.php';
require __DIR__ . '/pages.php';

chdir(__DIR__);
session_name('tidebook_install');
session_start();
$_SESSION['slip'] ??= bin2hex(random_bytes(16));
$step = (string) ($_GET['step'] ?? 'language');
$posted = $_SERVER['REQUEST_METHOD'] === 'POST';

if (is_file(__DIR__ . '/../settings.php') && $step !== 'finish') {
    page('Tidebook is installed', '<p>There is nothing to do here any more. Please remove the folder <em>install</em>.</p>', 409);
    exit;
}
if ($posted && !hash_equals($_SESSION['slip'], (string) ($_POST['slip'] ?? ''))) {
    page('Form out of date', '<p class="complaint">Please go back and try again.</p>', 400);
    exit;
}
// Nobody jumps over a step.
$order = ['language', 'checks', 'keeper', 'database'];
if (in_array($step, $order, true)) {
    foreach ($order as $name) {
        if ($name === $step) {
            break;
        }
        if (!isset($_SESSION['done'][$name])) {
            header('Location: ?step=' . $name, true, 303);
            exit;
        }
    }
}

function onward(string $done, string $next): never
{
    $_SESSION['done'][$done] = true;
    header('Location: ?step=' . $next, true, 303);
    exit;
}

switch ($step) {
    case 'checks':
        $checks = requirements();
        $stuck = array_filter($checks, fn(array $c): bool => $c['must'] && !$c['fine']);
        if ($posted && !$stuck) {
            onward('checks', 'keeper');
        }
        checks_page($checks, (bool) $stuck);
        break;
    case 'keeper':
        $complaints = [];
        if ($posted) {
            $complaints = take_keeper();
            if (!$complaints) {
                onward('keeper', 'database');
            }
        }
        keeper_page($complaints);
        break;
    case 'database':
        $complaint = '';
        if ($posted) {
            $complaint = install();
            if ($complaint === '') {
                onward('database', 'finish');
            }
        }
        database_page($complaint);
        break;
    case 'finish':
        $code = $_SESSION['code'] ?? null;
        unset($_SESSION['code']);
        finish_page($code);
        break;
    default:
        if ($posted) {
            $_SESSION['language'] = (string) ($_POST['tongue'] ?? 'en');
            onward('language', 'checks');
        }
        language_page();
}
