using System.Runtime.ExceptionServices;

namespace Bellator.Text;

/// <summary>
/// A few threads that do one thing after another together. Nested code is read and followed by recursion, and the usual stack of
/// one MiB is too small for what people generate: theirs are larger.
/// </summary>
internal sealed class WorkerPool : IDisposable
{
    private const int StackBytes = 256 * 1024 * 1024;

    private readonly Thread[] _helpers;
    private readonly SemaphoreSlim _begin = new(0);
    private readonly SemaphoreSlim _done = new(0);
    private Action<int>? _action;
    private int _count;
    private int _next;
    private ExceptionDispatchInfo? _failure;
    private volatile bool _isOver;

    /// <param name="threads">How many work, the one that asks included.</param>
    public WorkerPool(int threads)
    {
        _helpers = [.. Enumerable.Range(1, Math.Max(0, threads - 1)).Select(_ => new Thread(Help, StackBytes) { IsBackground = true })];
        foreach (var helper in _helpers)
        {
            helper.Start();
        }
    }

    /// <summary>Runs something on one thread with a large stack, and waits for it.</summary>
    public static void OnLargeStack(Action action)
    {
        ExceptionDispatchInfo? failure = null;
        var thread = new Thread(
            () =>
            {
                try
                {
                    action();
                }
                catch (Exception e)
                {
                    failure = ExceptionDispatchInfo.Capture(e);
                }
            },
            StackBytes)
        {
            // A program that is told to end does not wait for what does not look whether it is.
            IsBackground = true,
        };
        thread.Start();
        thread.Join();
        failure?.Throw();
    }

    /// <summary>Does the action for each number below the count, in no order, and returns when all is done. The first error is thrown again; the rest is left out then.</summary>
    public void ForEach(int count, Action<int> action)
    {
        (_count, _next, _failure, _action) = (count, -1, null, action);
        var helping = Math.Min(_helpers.Length, count - 1);
        if (helping > 0)
        {
            _begin.Release(helping);
        }

        Work();
        for (var i = 0; i < helping; i++)
        {
            _done.Wait();
        }

        _failure?.Throw();
    }

    public void Dispose()
    {
        _isOver = true;
        _begin.Release(Math.Max(1, _helpers.Length));
        foreach (var helper in _helpers)
        {
            helper.Join();
        }

        _begin.Dispose();
        _done.Dispose();
    }

    private void Help()
    {
        while (true)
        {
            _begin.Wait();
            if (_isOver)
            {
                return;
            }

            Work();
            _done.Release();
        }
    }

    private void Work()
    {
        int index;
        while (_failure is null && (index = Interlocked.Increment(ref _next)) < _count)
        {
            try
            {
                _action!(index);
            }
            catch (Exception e)
            {
                Interlocked.CompareExchange(ref _failure, ExceptionDispatchInfo.Capture(e), null);
            }
        }
    }
}
