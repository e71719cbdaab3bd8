<?php

declare(strict_types=1);
require __DIR__ . '/../lib/book.php';

if (!is_file(__DIR__ . '/../settings.php') || is_dir(__DIR__ . '/../install')) {
    header('Location: ../');
    exit;
}
$settings = require __DIR__ . '/../settings.php';
session_name('tidebook_staff');
session_start();
$_SESSION['slip'] ??= bin2hex(random_bytes(16));
$db = connect($settings['database']);
$prefix = $settings['database']['prefix'];
$complaint = '';

if ($_SERVER['REQUEST_METHOD'] === 'POST' && hash_equals($_SESSION['slip'], (string) ($_POST['slip'] ?? ''))) {
    if (isset($_POST['out'])) {
        unset($_SESSION['keeper']);
    } elseif (isset($_POST['keeper'])) {
        $find = $db->prepare("SELECT name, secret FROM {$prefix}keepers WHERE name = ?");
        $find->execute([(string) $_POST['keeper']]);
        $row = $find->fetch(PDO::FETCH_ASSOC);
        if ($row && password_verify((string) ($_POST['word'] ?? ''), $row['secret'])) {
            session_regenerate_id(true);
            $_SESSION['keeper'] = $row['name'];
        } else {
            $complaint = '<p class="complaint" role="alert">Name and password do not belong together.</p>';
        }
    } elseif (isset($_SESSION['keeper'], $_POST['words'])) {
        $db->prepare("INSERT INTO {$prefix}entries (visitor, words, written) VALUES (?, ?, CURRENT_DATE)")
            ->execute([$_SESSION['keeper'], (string) $_POST['words']]);
    }
    if ($complaint === '') {
        header('Location: ./', true, 303);
        exit;
    }
}
$slip = '<input type="hidden" name="slip" value="' . $_SESSION['slip'] . '">';
if (!isset($_SESSION['keeper'])) {
    page('Staff entrance', $complaint . '<form method="post">' . $slip
        . '<label>Name <input name="keeper" autocomplete="username"></label>'
        . '<label>Password <input type="password" name="word" autocomplete="current-password"></label>'
        . '<p><button>Sign in</button></p></form>');
    exit;
}
$count = $db->query("SELECT COUNT(*) FROM {$prefix}entries")->fetchColumn();
page('Staff room', '<p>Welcome, ' . e($_SESSION['keeper']) . '. The diary has ' . (int) $count . ' entries.</p>'
    . '<form method="post">' . $slip . '<label>New entry <textarea name="words" rows="3" cols="40"></textarea></label><p><button>Write it down</button></p></form>'
    . '<form method="post">' . $slip . '<button name="out" value="1">Sign out</button></form>');
