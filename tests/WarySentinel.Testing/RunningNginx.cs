using System.Diagnostics;

namespace WarySentinel.Testing;

/// <summary>A real nginx in a folder of its own.</summary>
public sealed class RunningNginx : IAsyncDisposable
{
    private readonly Process process;

    private RunningNginx(Process process) => this.process = process;

    /// <summary>Its process.</summary>
    public int Id => process.Id;

    /// <summary>Starts one with what stands in its <c>http</c> block, and waits until it answers at an address.</summary>
    public static async Task<RunningNginx> StartAsync(string folder, string http, string address)
    {
        var file = Path.Combine(folder, "nginx.conf");
        await File.WriteAllTextAsync(file,
            $"worker_processes 1;\ndaemon off;\nuser root;\npid {folder}/nginx.pid;\nerror_log {folder}/error.log;\nevents {{}}\nhttp {{\naccess_log off;\n"
                + $"client_body_temp_path {folder}/a;\nproxy_temp_path {folder}/b;\nfastcgi_temp_path {folder}/c;\nuwsgi_temp_path {folder}/d;\n"
                + $"scgi_temp_path {folder}/e;\n{http}\n}}\n");
        var binary = File.Exists("/usr/sbin/nginx") ? "/usr/sbin/nginx" : "nginx";
        var started = new RunningNginx(Process.Start(new ProcessStartInfo(binary, ["-p", folder, "-c", file]) { RedirectStandardError = true })!);
        using var client = new HttpClient();
        for (var n = 0; n < 100; n++)
        {
            if (started.process.HasExited)
            {
                throw new InvalidOperationException("nginx did not start: " + await started.process.StandardError.ReadToEndAsync());
            }

            try
            {
                using var up = await client.GetAsync(address);
                break;
            }
            catch (HttpRequestException)
            {
                await Task.Delay(50);
            }
        }

        return started;
    }

    public async ValueTask DisposeAsync()
    {
        if (!process.HasExited)
        {
            process.Kill(true);
            await process.WaitForExitAsync();
        }

        process.Dispose();
    }
}
