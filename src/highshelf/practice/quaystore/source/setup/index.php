<?php

declare(strict_types=1);

use Quaystore\Page;
use Quaystore\Shop;

require dirname(__DIR__) . '/core/load.php';
require __DIR__ . '/checks.php';

session_name('quay_setup');
session_start();
if (Shop::open() !== null) {
    Page::show('Installation is disabled', '<p>There is a shop here already.</p>', '../', 404);
}
$page = (string) ($_GET['page'] ?? 'start');
if ($page === 'licence') {
    Page::show('Terms', '<div class="terms"><p>Quaystore may be used by anybody for any shop, on land or water. It comes without any promise.</p></div>'
        . '<form><input type="hidden" name="page" value="checks"><label><input type="checkbox" name="agree" value="yes" required> I agree to these terms</label><p><button>Continue</button></p></form>', '../');
}
if ($page === 'checks') {
    if (($_GET['agree'] ?? $_SESSION['agree'] ?? '') !== 'yes') {
        header('Location: ?page=licence');
        exit;
    }
    $_SESSION['agree'] = 'yes';
    [$list, $fine] = check_list();
    $_SESSION['checked'] = $fine;
    // The page looks again by itself while something is wrong.
    header('Cache-Control: no-store');
    Page::show('What the shop needs', $list . '<p><a class="button quiet" href="?page=checks">Refresh</a> '
        . ($fine ? '<a class="button" href="steps.php">Continue</a>' : '<span class="button off">Continue</span>') . '</p>', '../');
}
$_SESSION['slip'] ??= bin2hex(random_bytes(16));
Page::show('Welcome aboard', '<p>This sets up a shop in a few minutes. You need a database.</p>'
    . '<button type="button" onclick="location.href=\'?page=licence\'">Let us begin</button>', '../');
