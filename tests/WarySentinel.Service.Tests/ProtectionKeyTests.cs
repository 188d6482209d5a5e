using System.Xml.Linq;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.Extensions.DependencyInjection;
using Shouldly;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests;

public sealed class ProtectionKeyTests
{
    [Fact]
    public async Task Keys_lie_sealed_in_the_store_and_those_of_an_earlier_version_are_sealed_and_go_on_working()
    {
        await using var site = await RunningSite.StartAsync();
        var store = site.Services.GetRequiredService<Store>();
        site.Services.GetRequiredService<IDataProtectionProvider>().CreateProtector("x").Protect("warm");
        store.ProtectionKeys().ShouldNotBeEmpty();
        store.ProtectionKeys().ShouldAllBe(k => k.Xml.Contains("sealed", StringComparison.Ordinal) && !k.Xml.Contains("<value", StringComparison.Ordinal));
        // As an earlier version left them: the master key in the clear.
        var bare = site.Services.GetRequiredService<Secrets>();
        foreach (var (name, xml) in store.ProtectionKeys())
        {
            var key = XElement.Parse(xml);
            var secret = key.Descendants().First(e => e.Name.LocalName == "encryptedSecret");
            secret.ReplaceWith(XElement.Parse(System.Text.Encoding.UTF8.GetString(bare.Unseal(Convert.FromBase64String(secret.Value)))));
            store.KeepProtectionKey(name, key.ToString());
        }

        var told = site.Services.GetRequiredService<IDataProtectionProvider>().CreateProtector("x").Protect("a letter");
        store.ProtectionKeys().ShouldContain(k => k.Xml.Contains("<value", StringComparison.Ordinal));
        await site.RestartAsync();
        site.Services.GetRequiredService<IDataProtectionProvider>().CreateProtector("x").Unprotect(told).ShouldBe("a letter");
        site.Services.GetRequiredService<Store>().ProtectionKeys().ShouldAllBe(k => !k.Xml.Contains("<value", StringComparison.Ordinal));
    }
}
