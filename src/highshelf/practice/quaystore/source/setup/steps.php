<?php

declare(strict_types=1);

use Quaystore\Page;
use Quaystore\Shop;

require dirname(__DIR__) . '/core/load.php';

session_name('quay_setup');
session_start();
if (Shop::open() !== null) {
    Page::show('Installation is disabled', '<p>There is a shop here already.</p>', '../', 404);
}
if (empty($_SESSION['checked'])) {
    header('Location: ./?page=checks');
    exit;
}
$_SESSION['slip'] ??= bin2hex(random_bytes(16));
// All that follows is made by setup.js.
Page::show('Setting up', '<div id="setup" data-slip="' . $_SESSION['slip'] . '" data-secure="' . (empty($_SERVER['HTTPS']) ? '' : '1')
    . '"><noscript>This part needs JavaScript. Please switch it on.</noscript></div>', '../', 200, 'setup.js');
