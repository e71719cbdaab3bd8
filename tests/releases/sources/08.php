<?php
namespace Vessel\Setup;
use Vessel\Http\Post;
final class DatabaseStep implements Step {
    public function handle(Post $post, State $state): Result {
        $dsn = new Dsn($post->text('u1'), (int) $post->text('u2', '3306'), $post->text('u3'));
        $account = new Account(user: $post->text('u4'), password: $post->text('u5'));
        try { $pdo = new \PDO($dsn->asString(), $account->user, $account->password); } catch (\PDOException $e) { return Result::fail($e->getMessage()); }
        $state->remember('db', ['host' => $post->text('u1'), 'port' => $post->text('u2'), 'name' => $post->text('u3'), 'user' => $post->text('u4'), 'password' => $post->text('u5'), 'prefix' => $post->text('u6', 'vs_')]);
        return Result::next();
    }
}
final class Dsn { public function __construct(private string $host, private int $port, private string $name) {}
  public function asString(): string { return "mysql:host={$this->host};port={$this->port};dbname={$this->name}"; } }
