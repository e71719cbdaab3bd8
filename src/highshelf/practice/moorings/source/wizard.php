<?php

// One address for all steps: the step to go to stands in the name of the button, go[N].
require 'inc/common.inc.php';
require 'inc/key.inc.php';
require 'inc/tables.inc.php';

session_name('moorings_wizard');
session_start();
if (isset($_GET['again'])) {
    $_SESSION = [];
    header('Location: wizard.php');
    exit;
}
if (settings() !== null && empty($_SESSION['ending'])) {
    show('Nothing to do', '<p>Moorings is already set up.</p>');
    exit;
}
$far = $_SESSION['far'] ?? 1;
$wanted = isset($_POST['go']) && is_array($_POST['go']) ? (int) key($_POST['go']) : $far;
// The name of this field is another one on every page.
if (isset($_POST['go']) && !isset($_POST[$_SESSION['slip'] ?? '-'])) {
    show('Start again', '<p>This page was too old. <a href="wizard.php">Go on from here</a></p>', 403);
    exit;
}
$wrong = '';
if ($wanted > $far) {
    $wrong = finish_step($far);
    if ($wrong === '') {
        $far = min($wanted, $far + 1);
        $_SESSION['far'] = $far;
    }
} else {
    $far = max(1, $wanted);
    $_SESSION['far'] = $far;
}
page_of($far, $wrong);

/** Take what a page asked for; a complaint, or "". */
function finish_step($step)
{
    switch ($step) {
        case 1:
            return empty($_POST['agree']) ? 'You have to agree to the licence.' : '';
        case 2:
            $_SESSION['key'] = strtoupper(trim($_POST['k'] ?? ''));
            return key_trouble($_SESSION['key']);
        case 3:
            return in_array(false, array_column(checks(), 1), true) ? 'Something is still missing.' : '';
        case 4:
            $proof = MOORINGS_ROOT . '/' . proof_name();
            if (!is_file($proof)) {
                return 'There is no file ' . proof_name() . ' here.';
            }
            return trim(file_get_contents($proof)) === $_SESSION['proof'] ? '' : 'The file is there, but its text is another one.';
        case 5:
            return take_database();
        case 6:
            return settings() === null ? 'config.inc.php is not there yet.' : fill_database();
    }
    return '';
}

function proof_name()
{
    $_SESSION['proof'] ??= bin2hex(random_bytes(12));
    return 'moorings-proof-' . substr(md5($_SESSION['proof']), 0, 8) . '.txt';
}

/** [what, fine, how it is] */
function checks()
{
    $list = [['PHP 7.4 or newer', version_compare(PHP_VERSION, '7.4', '>='), PHP_VERSION], ['PHP extension mysqli', extension_loaded('mysqli'), extension_loaded('mysqli') ? 'OK' : 'NOT OK']];
    foreach (['letters', 'cache'] as $folder) {
        $can = is_writable(MOORINGS_ROOT . '/' . $folder);
        $list[] = ["Folder $folder/ (chmod 777)", $can, $can ? 'OK' : 'NOT OK'];
    }
    $plan = is_file(MOORINGS_ROOT . '/modules/berthplan/plan.inc.php');
    $list[] = ['Module berthplan (an archive of its own, goes into modules/)', $plan, $plan ? 'OK' : 'NOT THERE'];
    // It is good to have, and nothing waits for it.
    $list[] = ['PHP extension imap', null, extension_loaded('imap') ? 'OK' : 'NOT AVAILABLE'];
    return $list;
}

function take_database()
{
    foreach (['db_server', 'db_db', 'db_user', 'db_word', 'pre'] as $name) {
        $_SESSION[$name] = trim($_POST[$name] ?? '');
    }
    if (!preg_match('/^[a-z][a-z0-9]*_$/', $_SESSION['pre'])) {
        return 'The prefix has to be small letters and digits with a _ at the end.';
    }
    if (!open_database($_SESSION['db_server'], $_SESSION['db_user'], $_SESSION['db_word'], $_SESSION['db_db'])) {
        return 'Could not connect.';
    }
    $_SESSION['ending'] = true;
    // When it cannot be written here it is shown on the next page.
    if (@file_put_contents(MOORINGS_ROOT . '/config.inc.php', config_text()) !== false) {
        chmod(MOORINGS_ROOT . '/config.inc.php', 0666);
    }
    return '';
}

function config_text()
{
    $_SESSION['salt'] ??= bin2hex(random_bytes(24));
    $all = ['server' => $_SESSION['db_server'], 'database' => $_SESSION['db_db'], 'login' => $_SESSION['db_user'], 'word' => $_SESSION['db_word'],
        'prefix' => $_SESSION['pre'], 'licence' => $_SESSION['key'], 'salt' => $_SESSION['salt']];
    return "<?php\n\nreturn " . var_export($all, true) . ";\n";
}

function fill_database()
{
    $settings = settings();
    $db = open_database($settings['server'], $settings['login'], $settings['word'], $settings['database']);
    if (!$db) {
        return 'Could not connect with what stands in config.inc.php.';
    }
    $made = make_tables($db, $settings['prefix']);
    if (!is_int($made)) {
        return 'The tables could not be made: ' . $made;
    }
    $_SESSION['made'] = $made;
    return '';
}

function button($step, $label, $more = '')
{
    return '<input type=submit name="go[' . $step . ']" value="' . h($label) . '"' . $more . '> ';
}

function page_of($step, $wrong)
{
    $_SESSION['slip'] = 'f' . bin2hex(random_bytes(5));
    $hidden = '<input type=hidden name=' . $_SESSION['slip'] . ' value=1>';
    $back = $step > 1 && $step < 7 ? button($step - 1, 'Back') : '';
    $told = $wrong === '' ? '' : '<p class=wrong>' . h($wrong) . '</p>';
    $restart = '<form action="wizard.php" method=get class=small><input type=submit name=again value="Start again"></form>';
    [$heading, $body, $buttons] = step_page($step);
    show("Wizard, page $step of 7: $heading", "$restart$told<form action=\"wizard.php\" method=post enctype=\"multipart/form-data\">$hidden$body<p>$back$buttons</p></form>");
}

/** Heading, what stands in the form, its buttons. */
function step_page($step)
{
    switch ($step) {
        case 1:
            $text = h(file_get_contents(MOORINGS_ROOT . '/LICENCE.txt'));
            return ['Licence', "<textarea rows=9 cols=80 readonly>$text</textarea><p><input type=checkbox name=agree value=1> I have read this and agree</p>", button(2, 'I agree, go on')];
        case 2:
            return ['Licence key', '<table><tr><td>Licence key</td><td><input name=k size=24 value="' . h($_SESSION['key'] ?? '') . '"></td></tr></table>', button(3, 'Check the key')];
        case 3:
            return checks_page();
        case 4:
            $name = proof_name();
            return ['Are you the owner?', "<p>Please put a file <tt>$name</tt> into the folder of Moorings. It holds nothing but this line:</p><pre>{$_SESSION['proof']}</pre>", button(5, 'I have put it there')];
        case 5:
            return database_form();
        case 6:
            return config_page();
    }
    return end_page();
}

function checks_page()
{
    $rows = '';
    $stuck = false;
    foreach (checks() as [$what, $fine, $seen]) {
        $rows .= '<tr><td>' . h($what) . '</td><td class=' . ($fine === false ? 'wrong' : 'right') . '>' . h($seen) . '</td></tr>';
        $stuck = $stuck || $fine === false;
    }
    return ['Is all here?', "<table class=list>$rows</table>" . ($stuck ? '<p>Please mend what is NOT OK or NOT THERE, then check again.</p>' : ''),
        button(3, 'Check again') . ($stuck ? '' : button(4, 'Go on'))];
}

function database_form()
{
    $rows = '';
    $fields = ['db_server' => ['Server (or server:port)', 'localhost'], 'db_db' => ['Database', ''], 'db_user' => ['Login', ''], 'db_word' => ['Password', ''], 'pre' => ['Tables begin with', 'moor_']];
    foreach ($fields as $name => [$label, $usual]) {
        $rows .= "<tr><td>$label</td><td><input name=$name value=\"" . h($_SESSION[$name] ?? $usual) . '"></td></tr>';
    }
    return ['Database', "<table>$rows</table>", button(6, 'Connect and write the settings')];
}

function config_page()
{
    if (settings() !== null) {
        return ['Settings', '<p>config.inc.php is written.</p>', button(7, 'Make the tables')];
    }
    return ['Settings', '<p class=wrong>The file config.inc.php could not be written here. Please make it by hand, in the folder of Moorings, with this text:</p><textarea rows=14 cols=80 readonly>'
        . h(config_text()) . '</textarea>', button(7, 'It is in its place: make the tables')];
}

function end_page()
{
    $made = (int) $_SESSION['made'];
    $_SESSION = [];
    return ['Ready', "<p>$made tables were made.</p><p>Sign in at the <a href=\"gate.php\">harbour office</a> as <b>harbourmaster</b> with the password <b>ebbandflow</b>, and change it there.</p>"
        . '<p>Now rename the file <tt>wizard.php</tt>: the gate stays shut until then. Remove it when you have seen that all works.</p>', ''];
}
