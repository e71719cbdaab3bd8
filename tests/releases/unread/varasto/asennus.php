<?php
require __DIR__ . '/asetus.inc.php';
$kohde = __DIR__ . '/tiedot.php';
if (is_file($kohde)) {
    http_response_code(403);
    exit('Varasto on jo paikallaan.');
}
$virheet = [];
$l = array_map('trim', array_filter($_POST, 'is_string'));
if ($_SERVER['REQUEST_METHOD'] === 'POST') {
    if (strlen($l['uusi'] ?? '') < 8) {
        $virheet[] = 'Sanassa on oltava vähintään kahdeksan merkkiä.';
    }
    if (($l['uusi'] ?? '') !== ($l['uusi_b'] ?? '')) {
        $virheet[] = 'Sanat eivät täsmää.';
    }
    if (!filter_var($l['osoite'] ?? '', FILTER_VALIDATE_EMAIL)) {
        $virheet[] = 'Osoite ei kelpaa.';
    }
    if (!$virheet) {
        try {
            $db = kanta($l['a'], $l['b'], $l['c'], $l['d']);
            $db->query('CREATE TABLE v_hoitajat (nro INT AUTO_INCREMENT PRIMARY KEY, tunnus VARCHAR(60), sana VARCHAR(255), osoite VARCHAR(120))');
            $db->query('CREATE TABLE v_asetukset (avain VARCHAR(40) PRIMARY KEY, arvo TEXT)');
            $db->query('CREATE TABLE v_hyllyt (nro INT AUTO_INCREMENT PRIMARY KEY, teksti TEXT)');
            $s = $db->prepare('INSERT INTO v_hoitajat (tunnus, sana, osoite) VALUES (?, ?, ?)');
            $tiiviste = password_hash($l['uusi'], PASSWORD_DEFAULT);
            $s->bind_param('sss', $l['joku'], $tiiviste, $l['osoite']);
            $s->execute();
            $s = $db->prepare('INSERT INTO v_asetukset VALUES ("kilpi", ?)');
            $s->bind_param('s', $l['kilpi']);
            $s->execute();
            $t = "<?php\nreturn " . var_export(['k1' => $l['a'], 'k2' => $l['b'], 'k3' => $l['c'], 'k4' => $l['d']], true) . ";\n";
            if (@file_put_contents($kohde, $t) === false) {
                throw new RuntimeException('Tiedostoa ei voi kirjoittaa.');
            }
            exit('<!doctype html><meta charset="utf-8"><title>Varasto</title><h1>Valmista tuli</h1><p><a href="index.php">Varastoon</a></p>');
        } catch (RuntimeException $e) {
            $virheet[] = $e->getMessage();
        }
    }
}
$a = fn (string $k, string $e = ''): string => h($l[$k] ?? $e);
?>
<!doctype html>
<html lang="fi"><head><meta charset="utf-8"><title>Varaston käyttöönotto</title></head><body>
<h1>Varaston käyttöönotto</h1>
<?php foreach ($virheet as $v) { ?><p class="virhe"><?= h($v) ?></p><?php } ?>
<form method="post">
<h2>Kone</h2>
<p><label for="a">Missä se on</label> <input id="a" name="a" value="<?= $a('a', 'localhost') ?>"></p>
<p><label for="d">Minkä niminen</label> <input id="d" name="d" value="<?= $a('d') ?>"></p>
<p><label for="b">Kenen tilillä</label> <input id="b" name="b" value="<?= $a('b') ?>"></p>
<p><label for="c">Millä avaimella</label> <input id="c" name="c" type="password"></p>
<h2>Hoitaja</h2>
<p><label for="k">Kilpi oven yläpuolella</label> <input id="k" name="kilpi" value="<?= $a('kilpi') ?>"></p>
<p><label for="j">Kuka hoitaa</label> <input id="j" name="joku" value="<?= $a('joku') ?>"></p>
<p><label for="u">Sana</label> <input id="u" name="uusi" type="password"></p>
<p><label for="ub">Sana toiseen kertaan</label> <input id="ub" name="uusi_b" type="password"></p>
<p><label for="o">Minne kirjoitetaan</label> <input id="o" name="osoite" value="<?= $a('osoite') ?>"></p>
<p><button>Käyttöön</button></p>
</form></body></html>
