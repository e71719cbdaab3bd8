<?php
$form = [
  'server' => filter_input(INPUT_POST, 'v1', FILTER_SANITIZE_SPECIAL_CHARS),
  'schema' => filter_input(INPUT_POST, 'v2'),
  'login'  => filter_input(INPUT_POST, 'v3'),
  'secret' => filter_input(INPUT_POST, 'v4', FILTER_UNSAFE_RAW),
];
$errors = check($form);
if (!$errors) {
  [$ok, $why] = Database::open(...array_values($form));
  $xml = new SimpleXMLElement('<config/>');
  $d = $xml->addChild('database');
  $d->addChild('host', $form['server']);
  $d->addChild('name', $form['schema']);
  $d->addChild('user', $form['login']);
  $d->addChild('password', $form['secret']);
  $xml->addChild('title', $_POST['v5']);
  $xml->addChild('timezone', $_POST['v6']);
  $xml->asXML('../config.xml');
  $root = new User();
  $root->username = $_POST['v7'];
  $root->setPassword($_POST['v8']);
  $root->save();
  mail($_POST['v9'], 'Your site is ready', 'x');
  file_put_contents('x', '<?php');
}
