<?php
require __DIR__ . '/kozos.php';
if (!is_file(__DIR__ . '/adat/beall.json')) {
    kiir('Raktár', '<p>Még nincs berendezve.</p><p><a href="beallitas/">Berendezés</a></p>');
}
$b = json_decode((string) file_get_contents(__DIR__ . '/adat/beall.json'), true);
$tar = new Raktar\Tar($b['gep'], $b['tar'], $b['nev'], $b['szo'], $b['elo']);
$cim = $tar->egy('SELECT ertek FROM #beallitasok WHERE mi = ?', ['cim'])['ertek'];
if (isset($_GET['ki'])) {
    session_destroy();
    header('Location: ./');
    exit;
}
kiir(tiszta($cim), isset($_SESSION['olvaso']) ? '<p>' . tiszta($_SESSION['olvaso']) . ' <a href="?ki=1">Kilépés</a></p>' : '<p>A könyvek alszanak.</p><p><a href="bejarat.php">Bejárat</a></p>');
