using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.Extensions.Logging;

namespace WarySentinel.Testing;

/// <summary>A site of a few lines that a test writes itself.</summary>
public static class SmallSite
{
    /// <summary>One without paths, not started yet.</summary>
    /// <param name="address">Where it listens; any free port unless said.</param>
    public static WebApplication At(string address = "http://127.0.0.1:0")
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.WebHost.UseUrls(address);
        builder.Logging.ClearProviders();
        return builder.Build();
    }
}
