<?php
require __DIR__ . '/../kozos.php';
$file = __DIR__ . '/../adat/beall.json';
if (is_file($file)) {
    http_response_code(404);
    kiir('Nincs itt semmi', '<p>A raktár már áll.</p>');
}
$l = (int) ($_GET['lepes'] ?? 0);
$hiba = '';
if ($l === 2 && $_SERVER['REQUEST_METHOD'] === 'POST') {
    try {
        $elo = beerkezett('p') === '' ? '' : rtrim(beerkezett('p'), '_') . '_';
        $tar = new Raktar\Tar(beerkezett('x1'), beerkezett('x2'), beerkezett('x3'), beerkezett('x4'), $elo);
        $tar->epit();
        $_SESSION['b'] = ['gep' => beerkezett('x1'), 'tar' => beerkezett('x2'), 'nev' => beerkezett('x3'), 'szo' => beerkezett('x4'), 'elo' => $elo];
        header('Location: ?lepes=3');
        exit;
    } catch (PDOException $e) {
        $hiba = '<p style="color:red">' . tiszta($e->getMessage()) . '</p>';
    }
}
if ($l === 3 && $_SERVER['REQUEST_METHOD'] === 'POST' && isset($_SESSION['b'])) {
    $b = $_SESSION['b'];
    if (mb_strlen(beerkezett('y2')) < 10 || beerkezett('y2') !== beerkezett('y3')) {
        $hiba = '<p style="color:red">A kulcsok nem egyeznek, vagy rövidek.</p>';
    } elseif (strpos(beerkezett('y4'), '@') === false) {
        $hiba = '<p style="color:red">Ez nem levélcím.</p>';
    } else {
        $tar = new Raktar\Tar($b['gep'], $b['tar'], $b['nev'], $b['szo'], $b['elo']);
        $tar->tesz('olvasok', ['nev' => beerkezett('y1'), 'kulcs' => password_hash(beerkezett('y2'), PASSWORD_BCRYPT), 'level' => beerkezett('y4')]);
        $tar->tesz('beallitasok', ['mi' => 'cim', 'ertek' => beerkezett('y5') ?: 'Raktár']);
        file_put_contents($file, json_encode($b));
        unset($_SESSION['b']);
        kiir('Megvagyunk', '<p>A polcok a helyükön.</p><p><a href="../">Be a raktárba</a></p>');
    }
}
if ($l === 0) {
    kiir('Berendezés', '<p>Üdvözöljük! Négy lépés az egész.</p><p><a href="?lepes=1">Kezdjük</a></p>');
}
if ($l === 1) {
    kiir('Mi van meg', '<ul><li>PHP ' . PHP_VERSION . ' rendben</li><li>pdo_mysql rendben</li><li>az adat könyvtár írható: rendben</li></ul><p><a href="?lepes=0">Vissza</a> <a href="?lepes=2">Tovább</a></p>');
}
if ($l === 2) {
    kiir('A könyvek tára', $hiba . '<form method="post"><table><tr><td>Melyik gépen</td><td><input name="x1" value="localhost"></td></tr><tr><td>A tár neve</td><td><input name="x2"></td></tr><tr><td>Ki nyitja</td><td><input name="x3"></td></tr><tr><td>Mivel nyitja</td><td><input name="x4" type="password"></td></tr><tr><td>Elé írva</td><td><input name="p" value="r_"></td></tr></table><input type="submit" value="Tovább"></form>');
}
kiir('Az első olvasó', $hiba . '<form method="post"><table><tr><td>Hogy hívják</td><td><input name="y1"></td></tr><tr><td>Kulcsa</td><td><input name="y2" type="password"></td></tr><tr><td>Kulcsa még egyszer</td><td><input name="y3" type="password"></td></tr><tr><td>Levélcím</td><td><input name="y4"></td></tr><tr><td>Mi legyen kiírva</td><td><input name="y5"></td></tr></table><input type="submit" value="Tovább"></form>');
