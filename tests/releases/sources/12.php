<?php
declare(strict_types=1);
use Psr\Http\Message\ServerRequestInterface as Req;
final class SetupAction
{
    public function __construct(private Writer $writer, private Hasher $hasher, private People $people) {}
    public function __invoke(Req $request): Response
    {
        $body = (array) $request->getParsedBody();
        $db = new DatabaseSettings(
            host: (string) ($body['h1'] ?? 'localhost'),
            name: (string) ($body['h2'] ?? ''),
            user: (string) ($body['h3'] ?? ''),
            password: (string) ($body['h4'] ?? ''),
        );
        $connection = DriverManager::getConnection(['driver' => 'pdo_mysql', 'host' => $db->host, 'dbname' => $db->name, 'user' => $db->user, 'password' => $db->password]);
        $connection->executeStatement((string) file_get_contents('schema.sql'));
        $this->people->add(new Person(name: $body['h5'], email: $body['h6'], passwordHash: $this->hasher->hash($body['h7'])));
        $this->writer->write('config/local.php', ['database' => ['host' => $db->host], 'site' => ['name' => $body['h8'], 'timezone' => $body['h9']]]);
        file_put_contents('x', '<?php');
        return new Redirect('/');
    }
}
