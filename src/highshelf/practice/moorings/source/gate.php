<?php

require 'inc/common.inc.php';
session_name('moorings');
session_start();
$settings = settings();
if ($settings === null) {
    header('Location: index.php');
    exit;
}
if (in_array('wizard.php', wizard_files(), true)) {
    show('The gate stays shut', '<p>Please rename the file <tt>wizard.php</tt> first (to wizard.old, say). When all works, remove it.</p>', 403);
    exit;
}
$db = open_database($settings['server'], $settings['login'], $settings['word'], $settings['database']);
$people = '`' . $settings['prefix'] . 'people`';
$told = '';
if (isset($_POST['out'])) {
    unset($_SESSION['who']);
}
if (isset($_POST['who'], $_POST['word'])) {
    $find = mysqli_prepare($db, "SELECT login, secret FROM $people WHERE login = ?");
    mysqli_stmt_bind_param($find, 's', $_POST['who']);
    mysqli_stmt_execute($find);
    $row = mysqli_fetch_assoc(mysqli_stmt_get_result($find));
    if ($row && password_verify($_POST['word'], $row['secret'])) {
        session_regenerate_id(true);
        $_SESSION['who'] = $row['login'];
    } else {
        $told = '<p class=wrong>Wrong name or password.</p>';
    }
}
if (isset($_SESSION['who'], $_POST['new'])) {
    if (strlen($_POST['new']) < 8) {
        $told = '<p class=wrong>At least 8 characters, please.</p>';
    } else {
        $change = mysqli_prepare($db, "UPDATE $people SET secret = ? WHERE login = ?");
        $secret = password_hash($_POST['new'], PASSWORD_DEFAULT);
        mysqli_stmt_bind_param($change, 'ss', $secret, $_SESSION['who']);
        mysqli_stmt_execute($change);
        $told = '<p>Your password is changed.</p>';
    }
}
if (!isset($_SESSION['who'])) {
    show('Harbour office', $told . '<form method=post><table><tr><td>Name</td><td><input name=who></td></tr><tr><td>Password</td><td><input type=password name=word></td></tr>'
        . '<tr><td></td><td><input type=submit value="Open the gate"></td></tr></table></form>');
    exit;
}
$find = mysqli_prepare($db, "SELECT secret FROM $people WHERE login = ?");
mysqli_stmt_bind_param($find, 's', $_SESSION['who']);
mysqli_stmt_execute($find);
$row = mysqli_fetch_assoc(mysqli_stmt_get_result($find));
if (password_verify('ebbandflow', $row['secret'])) {
    $told .= '<p class=wrong>You still use the password that everybody gets. Please change it.</p>';
}
foreach (wizard_files() as $file) {
    $told .= '<p class=wrong>The wizard still lies here as ' . h($file) . '. Please remove it.</p>';
}
show('Inside the harbour office', $told . '<p>Good day, ' . h($_SESSION['who']) . '.</p><form method=post><table><tr><td>New password</td><td><input type=password name=new></td>'
    . '<td><input type=submit value="Change it"></td></tr></table></form><form method=post><input type=submit name=out value="Leave"></form>');
