using WarySentinel.Service.Tests;
using WarySentinel.Testing;
using Xunit;

[assembly: AssemblyFixture(typeof(SiteFixture))]

namespace WarySentinel.Service.Tests;

/// <summary>One running site for all tests that leave its gates as they are.</summary>
public sealed class SiteFixture : IAsyncLifetime
{
    public RunningSite Site { get; private set; } = null!;

    public async ValueTask InitializeAsync() => Site = await RunningSite.StartAsync();

    public ValueTask DisposeAsync() => Site.DisposeAsync();
}
