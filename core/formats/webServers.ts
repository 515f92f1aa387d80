/** What stands behind a web server that is put in front. */
export interface BehindWebServer {
  /** Where Fernhop listens on this machine. */
  readonly port: number;
}

export interface NginxOptions extends BehindWebServer {
  /** The application's host and every link domain. */
  readonly hosts: readonly string[];
  /** The folder with a folder of certificates for each host, as certbot makes it. */
  readonly certificates?: string;
}

/** What networks call: it is passed on by plain http too, since not every network follows a redirect. */
const calledByNetworks = ['/postback/', '/pixel/'];

/**
 * A Caddyfile that gets a certificate for each name that is one of Fernhop's, when somebody first comes by it: a domain that
 * is added needs nothing more than its DNS. The call that Caddy asks is not passed on to anybody else.
 */
export const caddyfile = ({
  port,
}: BehindWebServer): string => `# Made by Fernhop: npm run webserver -- --for caddy
{
	on_demand_tls {
		ask http://127.0.0.1:${port}/api/certificate-for
	}
}

https:// {
	tls {
		on_demand
	}
	@inside path /api/certificate-for*
	respond @inside 404
	reverse_proxy 127.0.0.1:${port} {
		flush_interval -1
	}
}

http:// {
	@networks path ${calledByNetworks.map((path) => `${path}*`).join(' ')}
	handle @networks {
		reverse_proxy 127.0.0.1:${port}
	}
	handle {
		redir https://{host}{uri} 308
	}
}
`;

/** True for a host name that can stand in a configuration as it is. */
const isPlainHost = (host: string): boolean => /^[a-z0-9.-]+$/.test(host);

const nginxLocation = (path: string, port: number): string => `	location ${path} {
		proxy_pass http://127.0.0.1:${port};
		proxy_http_version 1.1;
		proxy_set_header Connection "";
		proxy_set_header Host $http_host;
		proxy_set_header X-Forwarded-For $remote_addr;
		proxy_set_header X-Forwarded-Proto $scheme;
		proxy_buffering off;
		proxy_read_timeout 120s;
	}`;

const nginxServer = (
  host: string,
  { port, certificates = '/etc/letsencrypt/live' }: NginxOptions,
): string => `server {
	listen 443 ssl http2;
	listen [::]:443 ssl http2;
	server_name ${host};
	ssl_certificate ${certificates}/${host}/fullchain.pem;
	ssl_certificate_key ${certificates}/${host}/privkey.pem;
	client_max_body_size 5m;

	location = /api/certificate-for {
		return 404;
	}
${nginxLocation('/', port)}
}
`;

/**
 * Blocks for nginx: one for each host, with the certificate certbot made for it, and one that leads plain http to https.
 *
 * @throws Error for a host that is no name of DNS
 */
export const nginxBlocks = (options: NginxOptions): string => {
  const { hosts } = options;
  const odd = hosts.find((host) => !isPlainHost(host));
  if (odd !== undefined) throw new Error(`${odd} is no host name.`);
  return `# Made by Fernhop: npm run webserver -- --for nginx. Make it again when a domain is added.
# A certificate for each host: certbot certonly --webroot -w /var/www/letsencrypt -d HOST
server {
	listen 80;
	listen [::]:80;
	server_name ${hosts.join(' ')};

	location /.well-known/acme-challenge/ {
		root /var/www/letsencrypt;
	}
${calledByNetworks.map((path) => nginxLocation(path, options.port)).join('\n')}
	location / {
		return 308 https://$host$request_uri;
	}
}
${hosts.map((host) => nginxServer(host, options)).join('')}`;
};
