<?php
$step = $_GET['step'] ?? 'start';
switch ($step) {
case 'db':
    $ini = parse_ini_file('defaults.ini', true);
    $ini['database']['host'] = $_POST['ra'];
    $ini['database']['dbname'] = $_POST['rb'];
    $ini['database']['username'] = $_POST['rc'];
    $ini['database']['password'] = $_POST['rd'];
    $ini['smtp']['host'] = $_POST['re'];
    write_ini('config.ini', $ini);
    break;
case 'user':
    $u = User::build()->setLogin($_POST['rf'])->setPassword($_POST['rg'])->setEmail($_POST['rh']);
    $u->save();
    Settings::put('site.title', $_POST['ri']);
    Settings::put('site.timezone', $_POST['rj']);
    Settings::put('licence_key', $_POST['rk']);
    break;
case 'token':
    if (trim(file_get_contents(__DIR__ . '/../var/unlock.txt')) !== $_POST['rl']) { exit('no'); }
}
file_put_contents('x', "<?php");
