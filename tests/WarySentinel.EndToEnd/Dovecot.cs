using System.Diagnostics;
using System.Globalization;
using System.Text;
using WarySentinel.Testing;

namespace WarySentinel.EndToEnd;

/// <summary>
/// A real Dovecot with one mailbox, for whoever says the password; where somebody vouches for bearer tokens (RFC 7628), by those as well, and with submission
/// of letters, which go on to a relay.
/// </summary>
public sealed class Dovecot : IAsyncDisposable
{
    /// <summary>The password of every name.</summary>
    public const string Password = "lamp-and-owl";

    private readonly Process process;
    private int delivered;

    private Dovecot(string folder, Process process) => (Folder, this.process) = (folder, process);

    /// <summary>Where IMAP is spoken.</summary>
    public int Imap { get; private init; }

    /// <summary>Where letters are handed in; 0 for nowhere.</summary>
    public int Submission { get; private init; }

    /// <summary>Where the mailbox lies, in <c>mail</c>.</summary>
    public string Folder { get; }

    /// <summary>Whether it has ended.</summary>
    public bool HasExited => process.HasExited;

    /// <summary>Starts one.</summary>
    /// <param name="relay">The port on this machine to which letters go on; null for no submission.</param>
    /// <param name="vouching">The address that is asked whether a bearer token is good; null where none is taken.</param>
    /// <param name="stop">Cancels.</param>
    public static async Task<Dovecot> StartAsync(int? relay, Uri? vouching, CancellationToken stop)
    {
        var folder = Directory.CreateTempSubdirectory("wary-imap-").FullName;
        foreach (var part in new[] { "cur", "new", "tmp" })
        {
            Directory.CreateDirectory(Path.Combine(folder, "mail", part));
        }

        var (imap, submission) = (RunningSite.FreePort(), relay is null ? 0 : RunningSite.FreePort());
        await File.WriteAllTextAsync(Path.Combine(folder, "tokens.conf"), $"""
            introspection_mode = auth
            introspection_url = {vouching}
            username_attribute = email
            active_attribute = active
            active_value = true
            """, stop);
        await File.WriteAllTextAsync(Path.Combine(folder, "dovecot.conf"), $$"""
            protocols = imap{{(relay is null ? "" : " submission")}}
            listen = 127.0.0.1
            base_dir = {{folder}}/run
            state_dir = {{folder}}/state
            log_path = {{folder}}/log
            ssl = no
            disable_plaintext_auth = no
            auth_mechanisms = plain{{(vouching is null ? "" : " oauthbearer xoauth2")}}
            mail_location = maildir:{{folder}}/mail
            first_valid_uid = 1
            default_login_user = nobody
            default_internal_user = nobody
            default_internal_group = nogroup
            {{(vouching is null ? "" : $"passdb {{\n driver = oauth2\n mechanisms = xoauth2 oauthbearer\n args = {folder}/tokens.conf\n}}")}}
            passdb {
              driver = static
              mechanisms = plain
              args = password={{Password}}
            }
            userdb {
              driver = static
              args = uid=nobody gid=nogroup home={{folder}}
            }
            service imap-login {
              chroot =
              inet_listener imap {
                port = {{imap}}
              }
              inet_listener imaps {
                port = 0
              }
            }
            service anvil {
              chroot =
            }
            {{(relay is null ? "" : $"hostname = mail.site.example\nsubmission_relay_host = 127.0.0.1\nsubmission_relay_port = {relay}\n"
                + $"service submission-login {{\n chroot =\n inet_listener submission {{\n port = {submission}\n }}\n"
                + " inet_listener submissions {\n port = 0\n }\n}")}}
            """, stop);
        await GiveAwayAsync(folder, stop);
        var binary = File.Exists("/usr/sbin/dovecot") ? "/usr/sbin/dovecot" : "dovecot";
        return new Dovecot(
            folder, Process.Start(new ProcessStartInfo(binary, ["-F", "-c", Path.Combine(folder, "dovecot.conf")]) { RedirectStandardError = true })!)
        { Imap = imap, Submission = submission };
    }

    /// <summary>Puts a letter into the mailbox, as it is.</summary>
    public async Task DeliverAsync(string mail, CancellationToken stop)
    {
        var name = string.Create(CultureInfo.InvariantCulture, $"{DateTimeOffset.UtcNow.ToUnixTimeSeconds()}.{++delivered}.test");
        await File.WriteAllTextAsync(Path.Combine(Folder, "mail", "tmp", name), mail.ReplaceLineEndings("\r\n"), Encoding.Latin1, stop);
        await GiveAwayAsync(Folder, stop);
        File.Move(Path.Combine(Folder, "mail", "tmp", name), Path.Combine(Folder, "mail", "new", name));
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        if (!process.HasExited)
        {
            // It takes its children along only where it is asked to go.
            using var ask = Process.Start("kill", process.Id.ToString(CultureInfo.InvariantCulture));
            await process.WaitForExitAsync(CancellationToken.None);
        }

        process.Dispose();
        Directory.Delete(Folder, true);
    }

    private static async Task GiveAwayAsync(string folder, CancellationToken stop)
    {
        File.SetUnixFileMode(
            folder, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute | UnixFileMode.OtherExecute | UnixFileMode.OtherRead);
        using var give = Process.Start("chown", ["-R", "nobody:nogroup", Path.Combine(folder, "mail")]);
        await give.WaitForExitAsync(stop);
    }
}
