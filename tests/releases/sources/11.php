<?php
// setup of a small board, procedural, german comments
error_reporting(E_ALL);
include '../inc/mysql.php';
$schritt = isset($_REQUEST['schritt']) ? (int)$_REQUEST['schritt'] : 1;
if ($schritt == 2) {
    $cfg_host = trim($_POST['e1']);
    $cfg_user = trim($_POST['e2']);
    $cfg_pw   = $_POST['e3'];
    $cfg_base = trim($_POST['e4']);
    $cfg_vor  = preg_replace('/[^a-z0-9_]/', '', strtolower($_POST['e5']));
    if (!db_verbinden($cfg_host, $cfg_user, $cfg_pw) || !db_waehlen($cfg_base)) $fehler = true;
    else foreach (file('tabellen.sql') as $zeile) db_frage(str_replace('%vor%', $cfg_vor, $zeile));
    $_SESSION['cfg'] = compact('cfg_host', 'cfg_user', 'cfg_pw', 'cfg_base', 'cfg_vor');
}
if ($schritt == 3) {
    db_frage("INSERT INTO " . $_SESSION['cfg']['cfg_vor'] . "nutzer (nutzer_name, nutzer_passwort, nutzer_mail, nutzer_stufe) VALUES ('" . db_sauber($_POST['e6']) . "', '" . md5($_POST['e7']) . "', '" . db_sauber($_POST['e8']) . "', 9)");
    $f = fopen('../inc/konfig.php', 'w');
    fwrite($f, '<?php $titel = ' . var_export($_POST['e9'], true) . ';');
}
