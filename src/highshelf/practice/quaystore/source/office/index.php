<?php

declare(strict_types=1);

use Quaystore\Page;
use Quaystore\Shop;

require dirname(__DIR__) . '/core/load.php';

$shop = Shop::open();
if ($shop === null) {
    header('Location: ../');
    exit;
}
// Everybody knows what the office is called when it comes out of the archive.
if (basename(__DIR__) === 'office') {
    Page::show('The office is locked', '<p>Rename the folder <em>office</em> to something only you know. Until then nobody comes in here.</p>', '../', 403);
}
if (is_dir(Shop::root() . '/setup')) {
    Page::show('The office is locked', '<p>Remove the folder <em>setup</em> first.</p>', '../', 403);
}
session_name('quay_office');
session_start();
$told = '';
$crew = $shop->table('crew');
if ($_SERVER['REQUEST_METHOD'] === 'POST') {
    if (isset($_POST['leave'])) {
        $_SESSION = [];
    } else {
        $find = $shop->database()->prepare("SELECT login, secret FROM `$crew` WHERE login = ? OR email = ?");
        $find->execute([(string) ($_POST['user'] ?? ''), (string) ($_POST['user'] ?? '')]);
        $row = $find->fetch();
        if ($row && password_verify((string) ($_POST['pass'] ?? ''), $row['secret'])) {
            session_regenerate_id(true);
            $_SESSION['crew'] = $row['login'];
        } else {
            $told = '<div class="alert alert-danger">These do not belong together.</div>';
        }
    }
}
if (!isset($_SESSION['crew'])) {
    Page::show('Office', $told . '<form method="post"><div><input name="user" placeholder="Login or e-mail"></div><div><input type="password" name="pass" placeholder="Password"></div><button>Come in</button></form>', '../');
}
$left = [];
foreach (['README.txt', 'LIESMICH.txt', 'LISEZMOI.txt'] as $name) {
    if (is_file(Shop::root() . "/$name")) {
        $left[] = "$name lies in the shop's folder: it tells everybody which version this is. Please delete it.";
    }
}
if (is_writable(Shop::settingsFile()) && (fileperms(Shop::settingsFile()) & 0022)) {
    $left[] = 'settings/shop.php can be changed by others. Please take the permission away.';
}
$list = $left === [] ? '<p class="good">Nothing is left to do.</p>' : '<ul><li>' . implode('</li><li>', array_map([Page::class, 'text'], $left)) . '</li></ul>';
Page::show('Office of ' . $shop->settings['title'], '<p>At work: ' . Page::text($_SESSION['crew']) . '</p><h2>State of the shop</h2>' . $list . '<form method="post"><button name="leave" value="1">Leave</button></form>', '../');
