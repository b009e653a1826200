<?php

declare(strict_types=1);

namespace Register;

use PDO;

final class App
{
    /** @var array<int, array{string, string, array, array}> */
    private array $routes = [];
    private array $before = [];
    private string $prefix = '';

    public function __construct(public readonly PDO $db)
    {
    }

    public function get(string $path, array $action, callable ...$before): void
    {
        $this->add('GET', $path, $action, $before);
    }

    public function post(string $path, array $action, callable ...$before): void
    {
        $this->add('POST', $path, $action, [same_site(...), ...$before]);
    }

    public function under(string $prefix, array $before, callable $define): void
    {
        [$oldPrefix, $oldBefore] = [$this->prefix, $this->before];
        $this->prefix .= $prefix;
        $this->before = [...$this->before, ...$before];
        $define($this);
        [$this->prefix, $this->before] = [$oldPrefix, $oldBefore];
    }

    private function add(string $method, string $path, array $action, array $before): void
    {
        $pattern = '#^' . preg_replace('/\{(\w+)\}/', '(?<$1>[^/]+)', $this->prefix . $path) . '$#';
        $this->routes[] = [$method, $pattern, $action, [...$this->before, ...$before]];
    }

    public function run(Request $request): void
    {
        foreach ($this->routes as [$method, $pattern, [$class, $name], $before]) {
            if ($method !== $request->method || !preg_match($pattern, $request->path, $found)) {
                continue;
            }
            foreach ($before as $step) {
                $step($this, $request);
            }
            (new $class($this->db))->$name($request->with($found));
            return;
        }
        http_response_code(404);
        echo 'Nothing here';
    }
}
