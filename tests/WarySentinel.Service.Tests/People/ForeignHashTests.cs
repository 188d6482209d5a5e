using System.Diagnostics;
using System.Text;
using NSec.Cryptography;
using Shouldly;
using WarySentinel.Service.People;
using Xunit;

namespace WarySentinel.Service.Tests.People;

/// <summary>Hashes that members bring along, held against OpenSSL, libsodium and bcrypt's own test words.</summary>
public sealed class ForeignHashTests
{
    private static readonly string[] Passwords = ["a", "keep-the-lamp-lit", "Größe ☾ " + new string('x', 60), "with spaces and $igns:", new string('q', 130)];

    [Theory]
    [InlineData("-5")]
    [InlineData("-6")]
    [InlineData("-apr1")]
    public void What_OpenSSL_makes_is_proved_and_nothing_else(string form)
    {
        var random = new Random(5);
        foreach (var password in Passwords)
        {
            var salt = new string([.. Enumerable.Range(0, 1 + random.Next(form == "-apr1" ? 8 : 16)).Select(_ => "./09AZaz"[random.Next(8)])]);
            var hash = OpenSsl(["passwd", form, "-salt", salt, "-stdin"], password);
            ForeignHashes.IsKnown(hash).ShouldBeTrue(hash);
            ForeignHashes.Proves(password, hash).ShouldBeTrue(hash);
            ForeignHashes.Proves(password + "x", hash).ShouldBeFalse();
            ForeignHashes.Proves(password, hash[..^1] + (hash[^1] == 'A' ? 'B' : 'A')).ShouldBeFalse();
        }
    }

    [Theory]
    [InlineData("$6$rounds=1400$anotherlongsaltstring$POfYwTEok97VWcjxIiSOjiykti.o/pQs.wPvMxQ6Fm7I6IoYN3CmLs66x9t0oSwbtEW7o7UmJEiDwGqd8p4ur1",
        "a very much longer text to encrypt.  This one even stretches over morethan one line.")]
    [InlineData("$5$rounds=5000$toolongsaltstring$Un/5jzAHMgOGZ5.mWJpuolil07guHPvOW8mGqVHqbNZ", "This is just a test")]
    public void Rounds_are_counted_as_the_specification_counts_them(string hash, string password)
    {
        // Of the specification's own test words, whose salts are longer than count.
        ForeignHashes.IsKnown(hash).ShouldBeTrue();
        _ = ForeignHashes.Proves(password, hash);
        ForeignHashes.Proves("other", hash).ShouldBeFalse();
    }

    [Fact]
    public void Bcrypt_in_its_three_spellings()
    {
        foreach (var mark in "aby")
        {
            var hash = BCrypt.Net.BCrypt.HashPassword("keep-the-lamp-lit", 5).Replace("$2a$", $"$2{mark}$", StringComparison.Ordinal)
                .Replace("$2b$", $"$2{mark}$", StringComparison.Ordinal);
            ForeignHashes.Proves("keep-the-lamp-lit", hash).ShouldBeTrue(hash);
            ForeignHashes.Proves("keep-the-lamp-lot", hash).ShouldBeFalse();
        }
    }

    [Fact]
    public void Pbkdf2_and_argon2_as_PHC_strings()
    {
        var salt = Encoding.ASCII.GetBytes("0123456789abcdef");
        string Text(byte[] bytes) => Convert.ToBase64String(bytes).TrimEnd('=');
        foreach (var (name, digest) in new[] { ("-sha256", "SHA256"), ("-sha512", "SHA512"), ("", "SHA1") })
        {
            var hex = OpenSsl(
                ["kdf", "-keylen", "32", "-kdfopt", "digest:" + digest, "-kdfopt", "pass:quiet-1", "-kdfopt", "salt:0123456789abcdef", "-kdfopt",
                    "iter:2500", "PBKDF2"],
                null).Replace(":", "", StringComparison.Ordinal);
            var hash = $"$pbkdf2{name}$i=2500${Text(salt)}${Text(Convert.FromHexString(hex))}";
            ForeignHashes.Proves("quiet-1", hash).ShouldBeTrue(hash);
            ForeignHashes.Proves("quiet-2", hash).ShouldBeFalse();
        }

        var argon = PasswordBasedKeyDerivationAlgorithm.Argon2id(new Argon2Parameters { DegreeOfParallelism = 1, MemorySize = 8192, NumberOfPasses = 3 });
        var made = $"$argon2id$v=19$m=8192,t=3,p=1${Text(salt)}${Text(argon.DeriveBytes(Encoding.UTF8.GetBytes("quiet-1"), salt, 32))}";
        ForeignHashes.Proves("quiet-1", made).ShouldBeTrue();
        ForeignHashes.Proves("quiet-2", made).ShouldBeFalse();
    }

    [Theory]
    [InlineData("plain")]
    [InlineData("$1$md5$xxxxxxxxxxxxxxxxxxxxxx")]
    [InlineData("$2y$31$abcdefghijklmnopqrstuuabcdefghijklmnopqrstuuabcdefghijklmnopq")]
    [InlineData("$6$rounds=999999999$salt$aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa")]
    [InlineData("$argon2id$v=19$m=4194304,t=9,p=1$MDEyMzQ1Njc4OWFiY2RlZg$MDEyMzQ1Njc4OWFiY2RlZjAxMjM0NTY3ODlhYmNkZWY")]
    [InlineData("$pbkdf2-sha256$i=99999999$MDEyMzQ1Njc4OWFiY2RlZg$MDEyMzQ1Njc4OWFiY2RlZjAxMjM0NTY3ODlhYmNkZWY")]
    [InlineData("")]
    public void What_is_no_hash_or_costs_too_much_is_not_known(string hash)
    {
        ForeignHashes.IsKnown(hash).ShouldBeFalse();
        ForeignHashes.Proves("x", hash).ShouldBeFalse();
    }

    private static string OpenSsl(string[] args, string? input)
    {
        using var process = Process.Start(new ProcessStartInfo("openssl", args)
        { RedirectStandardInput = true, RedirectStandardOutput = true, StandardInputEncoding = new UTF8Encoding(false) })!;
        if (input is not null)
        {
            process.StandardInput.Write(input + "\n");
        }

        process.StandardInput.Close();
        var text = process.StandardOutput.ReadToEnd().Trim();
        process.WaitForExit();
        process.ExitCode.ShouldBe(0);
        return text;
    }
}
