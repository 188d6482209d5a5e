using System.Diagnostics;
using System.Net;
using System.Text;

namespace WarySentinel.Testing;

/// <summary>The service as a process of its own, as the system runs it: it can be killed at any moment.</summary>
public sealed class ServiceProcess : IAsyncDisposable
{
    /// <summary>So long is waited for one that hangs: a first start has taken a minute where the disk was held back.</summary>
    private static readonly TimeSpan Patience = TimeSpan.FromMinutes(4);

    private readonly StringBuilder log = new();
    private bool disposed;
    private readonly HttpClient http = new() { Timeout = TimeSpan.FromSeconds(5) };

    /// <summary>A program compiled ahead that starts faster, for long trials; else the one that was built beside the tests.</summary>
    private static readonly string? Published = Environment.GetEnvironmentVariable("WARY_TEST_SERVICE");

    private ServiceProcess(Process process, string site, string admin) => (Process, Site, Admin) = (process, site, admin);

    public Process Process { get; }

    public string Site { get; }

    public string Admin { get; }

    /// <summary>What it has written so far.</summary>
    public string Log
    {
        get
        {
            lock (log)
            {
                return log.ToString();
            }
        }
    }

    /// <summary>Starts it on a data folder; does not wait.</summary>
    public static ServiceProcess Start(string data, params string[] settings)
    {
        var (site, admin) = ($"http://127.0.0.1:{RunningSite.FreePort()}", $"http://127.0.0.1:{RunningSite.FreePort()}");
        var start = new ProcessStartInfo(Published ?? "dotnet",
            [.. Published is null ? (IEnumerable<string>)[typeof(Service.Sentinel).Assembly.Location] : [], $"--Wary:SiteListen={site}",
            $"--Wary:AdminListen={admin}", $"--Wary:SiteUrl={site}", $"--Wary:AdminUrl={admin}", $"--Wary:Data={data}", .. settings])
        {
            RedirectStandardError = true, RedirectStandardOutput = true, WorkingDirectory = Path.GetTempPath(),
        };
        var made = new ServiceProcess(new Process { StartInfo = start }, site, admin);
        made.Process.OutputDataReceived += made.Take;
        made.Process.ErrorDataReceived += made.Take;
        made.Process.Start();
        made.Process.BeginOutputReadLine();
        made.Process.BeginErrorReadLine();
        return made;
    }

    /// <summary>Waits until it has written something. Throws with its log where it does not within minutes.</summary>
    public async Task SaysAsync(string words)
    {
        for (var watch = Stopwatch.StartNew(); !Log.Contains(words, StringComparison.Ordinal); await Task.Delay(20))
        {
            if (watch.Elapsed > Patience)
            {
                throw new InvalidOperationException($"The service never said “{words}”:\n{Log}");
            }
        }
    }

    /// <summary>Waits until it is ready. Throws with its log where it ends, or takes minutes.</summary>
    public async Task<ServiceProcess> ReadyAsync()
    {
        var watch = Stopwatch.StartNew();
        while (watch.Elapsed < Patience)
        {
            if (Process.HasExited)
            {
                throw new InvalidOperationException($"The service ended with {Process.ExitCode}:\n{Log}");
            }

            try
            {
                using var answer = await http.GetAsync(Admin + "/health/ready");
                if (answer.StatusCode == HttpStatusCode.OK)
                {
                    return this;
                }
            }
            catch (Exception fault) when (fault is HttpRequestException or TaskCanceledException)
            {
                // Not yet.
            }

            await Task.Delay(50);
        }

        throw new InvalidOperationException("The service was not ready within minutes:\n" + Log);
    }

    /// <summary>Ends it as a power cut would.</summary>
    public async Task KillAsync()
    {
        if (!Process.HasExited)
        {
            Process.Kill(true);
        }

        await Process.WaitForExitAsync();
    }

    public async ValueTask DisposeAsync()
    {
        if (disposed)
        {
            return;
        }

        disposed = true;
        await KillAsync();
        Process.Dispose();
        http.Dispose();
    }

    private void Take(object sender, DataReceivedEventArgs line)
    {
        lock (log)
        {
            log.AppendLine(line.Data);
        }
    }
}
