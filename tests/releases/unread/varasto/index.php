<?php
session_start();
if (!is_file(__DIR__ . '/tiedot.php')) {
    header('Location: asennus.php');
    exit;
}
require __DIR__ . '/asetus.inc.php';
$c = require __DIR__ . '/tiedot.php';
$db = kanta($c['k1'], $c['k2'], $c['k3'], $c['k4']);
$nimi = $db->query('SELECT arvo FROM v_asetukset WHERE avain = "kilpi"')->fetch_row()[0];
$virhe = '';
if (($_POST['t'] ?? '') !== '') {
    $s = $db->prepare('SELECT sana FROM v_hoitajat WHERE tunnus = ?');
    $s->bind_param('s', $_POST['t']);
    $s->execute();
    $rivi = $s->get_result()->fetch_row();
    if ($rivi && password_verify($_POST['s'] ?? '', $rivi[0])) {
        $_SESSION['kuka'] = $_POST['t'];
        header('Location: index.php');
        exit;
    }
    $virhe = 'Tunnus tai sana on väärin.';
}
if (isset($_GET['ulos'])) {
    session_destroy();
    header('Location: index.php');
    exit;
}
?>
<!doctype html>
<html lang="fi"><head><meta charset="utf-8"><title><?= h($nimi) ?></title></head><body>
<h1><?= h($nimi) ?></h1>
<?php if (isset($_SESSION['kuka'])) { ?>
<p>Hei, <?= h($_SESSION['kuka']) ?>. <a href="?ulos=1">Kirjaudu ulos</a></p><p>Hyllyt ovat tyhjiä.</p>
<?php } else { ?>
<p>Varaston hyllyt ja laatikot.</p><p class="virhe"><?= h($virhe) ?></p>
<form method="post"><label>Tunnus <input name="t"></label> <label>Sana <input type="password" name="s"></label> <button>Kirjaudu</button></form>
<?php } ?>
</body></html>
