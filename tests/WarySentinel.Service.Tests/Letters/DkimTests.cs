using System.Security.Cryptography;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.Extensions.DependencyInjection;
using MimeKit;
using MimeKit.Cryptography;
using Org.BouncyCastle.Crypto;
using Org.BouncyCastle.OpenSsl;
using Shouldly;
using WarySentinel.Core.Letters;
using WarySentinel.Service.Access;
using WarySentinel.Service.Letters;
using WarySentinel.Service.People;
using Xunit;

namespace WarySentinel.Service.Tests.Letters;

/// <summary>Letters signed for their sender's domain (RFC 6376).</summary>
public sealed class DkimTests(SiteFixture fixture)
{
    [Fact]
    public async Task A_signed_letter_is_vouched_for_as_it_is_and_no_longer_once_it_was_changed()
    {
        using var rsa = RSA.Create(2048);
        var file = Path.GetTempFileName();
        await File.WriteAllTextAsync(file, rsa.ExportRSAPrivateKeyPem(), TestContext.Current.CancellationToken);
        var options = new ServiceOptions
        { DkimKey = file, DkimSelector = "hill", MailFrom = "lamp@fernlight.example", SiteUrl = "https://fernlight.example", Smtp = "smtp://x" };
        options.Fault().ShouldBeNull();
        var services = fixture.Site.Services;
        var paper = new LetterPaper(
            services.GetRequiredService<Envelopes>(),
                new Unsubscribing(services.GetRequiredService<IDataProtectionProvider>(), options),
            services.GetRequiredService<PolicyHolder>(), options, TimeProvider.System);
        var html = "<p>" + string.Concat(Enumerable.Repeat("Ein längerer Brief mit Umlauten. ", 60)) + "</p>";
        using var mail = paper.Write("ada@quill.example", "Grüße vom Hügel", "Hallo Ada", html, "one", LetterKinds.Get(LetterKinds.Told));
        mail.Headers[HeaderId.DkimSignature].ShouldNotBeNull().ShouldContain("list-unsubscribe:list-unsubscribe-post");
        mail.Headers[HeaderId.ListUnsubscribe].ShouldNotBeNull().ShouldStartWith("<https://");
        using var sent = new MemoryStream();
        await mail.WriteToAsync(sent, TestContext.Current.CancellationToken);
        var verifier = new DkimVerifier(new Located(rsa.ExportRSAPublicKeyPem()));
        (await VerifyAsync(verifier, sent.ToArray())).ShouldBeTrue();
        var changed = System.Text.Encoding.ASCII.GetString(sent.ToArray()).Replace("Hallo Ada", "Hallo Eva", StringComparison.Ordinal);
        (await VerifyAsync(verifier, System.Text.Encoding.ASCII.GetBytes(changed))).ShouldBeFalse();
        File.Delete(file);
    }

    private static async Task<bool> VerifyAsync(DkimVerifier verifier, byte[] bytes)
    {
        using var stream = new MemoryStream(bytes);
        using var mail = await MimeMessage.LoadAsync(stream, TestContext.Current.CancellationToken);
        var header = mail.Headers.First(h => h.Id == HeaderId.DkimSignature);
        header.Value.ShouldContain("d=fernlight.example");
        header.Value.ShouldContain("s=hill");
        return await verifier.VerifyAsync(mail, header, TestContext.Current.CancellationToken);
    }

    private sealed class Located(string pem) : DkimPublicKeyLocatorBase
    {
        public override AsymmetricKeyParameter LocatePublicKey(string methods, string domain, string selector, CancellationToken cancellationToken = default)
        {
            using var reader = new StringReader(pem);
            return (AsymmetricKeyParameter)new PemReader(reader).ReadObject();
        }

        public override Task<AsymmetricKeyParameter> LocatePublicKeyAsync(
            string methods, string domain, string selector, CancellationToken cancellationToken = default) =>
            Task.FromResult(LocatePublicKey(methods, domain, selector, cancellationToken));
    }
}
