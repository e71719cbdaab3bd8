<?php

require 'inc/common.inc.php';
$settings = settings();
if ($settings === null) {
    show('Not set up yet', '<p>There is no config.inc.php yet.</p><p><a href="wizard.php">Run the wizard</a></p>');
    exit;
}
$db = open_database($settings['server'], $settings['login'], $settings['word'], $settings['database']);
if (!$db) {
    show('Closed', '<p>The harbour office is closed: the database does not answer.</p>', 503);
    exit;
}
$pre = $settings['prefix'];
$count = mysqli_fetch_row(mysqli_query($db, "SELECT COUNT(*) FROM `{$pre}members`"))[0];
$plan = berth_plan();
show('Welcome to the harbour', '<p>' . (int) $count . ' members share ' . ($plan ? count($plan['berths']) : 'our') . ' berths.</p><p><a href="gate.php">Harbour office</a></p>');
