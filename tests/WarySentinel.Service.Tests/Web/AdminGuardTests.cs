using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;
using Shouldly;
using WarySentinel.Service.Web;
using Xunit;

namespace WarySentinel.Service.Tests.Web;

public class AdminGuardTests
{
    [Fact]
    public async Task A_call_that_the_end_of_the_service_cuts_off_is_no_fault_and_any_other_that_breaks_is_told_and_answered()
    {
        var log = new Told();
        await using var services = new ServiceCollection().AddLogging().BuildServiceProvider();
        var http = new DefaultHttpContext { RequestServices = services };
        await new AdminGuard(_ => throw new InvalidOperationException("a bug"), log).InvokeAsync(http);
        (http.Response.StatusCode, log.Lines.ShouldHaveSingleItem()).ShouldBe((500, LogLevel.Error));
        var over = new AdminGuard(_ => throw new ObjectDisposedException(nameof(IServiceProvider)), log);
        await Should.ThrowAsync<ObjectDisposedException>(() => over.InvokeAsync(new DefaultHttpContext { RequestServices = services }));
        log.Lines.Count.ShouldBe(1);
        // Something else of ours that is gone while the service runs is a bug like any other.
        await new AdminGuard(_ => throw new ObjectDisposedException("a stream"), log).InvokeAsync(
            new DefaultHttpContext { RequestServices = services });
        log.Lines.Count.ShouldBe(2);
    }

    private sealed class Told : ILogger<AdminGuard>
    {
        public List<LogLevel> Lines { get; } = [];

        public IDisposable? BeginScope<TState>(TState state)
            where TState : notnull => null;

        public bool IsEnabled(LogLevel logLevel) => true;

        public void Log<TState>(LogLevel logLevel, EventId eventId, TState state, Exception? exception, Func<TState, Exception?, string> formatter) =>
            Lines.Add(logLevel);
    }
}
