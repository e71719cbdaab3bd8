<?php
require __DIR__ . '/kozos.php';
$b = json_decode((string) file_get_contents(__DIR__ . '/adat/beall.json'), true);
$tar = new Raktar\Tar($b['gep'], $b['tar'], $b['nev'], $b['szo'], $b['elo']);
if (isset($_SESSION['olvaso'])) {
    header('Location: ./');
    exit;
}
$baj = '';
if (beerkezett('n') !== '') {
    $sor = $tar->egy('SELECT nev, kulcs FROM #olvasok WHERE nev = ?', [beerkezett('n')]);
    if ($sor && password_verify(beerkezett('k'), $sor['kulcs'])) {
        $_SESSION['olvaso'] = $sor['nev'];
        header('Location: ./');
        exit;
    }
    $baj = '<p>Ez nem jó.</p>';
}
kiir('Bejárat', $baj . '<form method="post"><p>Olvasó <input name="n"></p><p>Kulcs <input type="password" name="k"></p><p><input type="submit" value="Be"></p></form>');
